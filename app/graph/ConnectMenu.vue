<script setup lang="ts">
import { titleOf } from '#core/graph/check'
import { connect } from '#core/graph/edit'
import { kindFor } from '#core/graph/kinds'
import { nodeOf } from '#core/graph/find'
import { refusal, type Port } from '#core/graph/ports'
import type { Command } from '../project/keys'
import CommandMenu from '../project/CommandMenu.vue'

/**
 * Wires by the keyboard: every way in which the selected node's outputs can go into an input, and outputs into its
 * inputs.
 */
const open = defineModel<boolean>('open', { required: true })
const project = useProject()
const ways = computed<Command[]>(() => {
  const node = open.value && project.selected.length === 1 ? nodeOf(project.page, project.selected[0]!) : undefined
  if (!node) return []
  const ports = (id: string, side: 'inputs' | 'outputs') =>
    Object.entries(kindFor(nodeOf(project.page, id)!)?.[side] ?? {}).map(([port, d]) => ({
      node: id,
      port,
      title: d.title,
    }))
  const others = project.page.nodes.filter(n => n !== node)
  const way = (from: Port & { title: string }, to: Port & { title: string }): Command[] =>
    refusal(project.page, from, to)
      ? []
      : [
          {
            title: `${titleOf(nodeOf(project.page, from.node)!)}: ${from.title} → ${titleOf(nodeOf(project.page, to.node)!)}: ${to.title}`,
            group: from.node === node.id ? 'Out of it' : 'Into it',
            run: () =>
              project.editPage('Connect', look =>
                connect(look, { node: from.node, port: from.port }, { node: to.node, port: to.port }),
              ),
          },
        ]
  const pairs = (from: string, to: string) =>
    ports(from, 'outputs').flatMap(a => ports(to, 'inputs').flatMap(b => way(a, b)))
  return [...others.flatMap(o => pairs(node.id, o.id)), ...others.flatMap(o => pairs(o.id, node.id))]
})
</script>

<template>
  <CommandMenu
    v-model:open="open"
    :commands="ways"
    title="Connect"
    ask="Connect to what?"
    none="There is nothing that this node could be connected to."
  />
</template>
