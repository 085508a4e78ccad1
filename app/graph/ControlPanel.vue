<script setup lang="ts">
import type { Triple } from '#core/color/convert'
import { inputType, kindFor, paramOf } from '#core/graph/kinds'
import { pageOf } from '#core/graph/scope'
import { renameNode, setParam, setParams, freshSeed } from '#core/graph/edit'
import { titleOf } from '#core/graph/check'
import { nodeOf } from '#core/graph/find'
import { exposable, expose, exposedIn, isExposed } from '#core/graph/variants'
import type { Stop } from '#core/graph/types'
import { UNIT_SHAPE, type ParamValue } from '#core/nodes/declare'
import type { Channel, CurvePoint, Pin } from '#core/graph/types'
import ChannelsField from './ChannelsField.vue'
import CurveField from './CurveField.vue'
import EchoField from './EchoField.vue'
import GeometryMapField from './GeometryMapField.vue'
import PaletteField from './PaletteField.vue'
import PictureField from './PictureField.vue'
import PinsField from './PinsField.vue'
import { count } from '../shared/units'

/** The number that a control shows: of several, the first. */
function numberIn(value: unknown): number {
  if (typeof value === 'number') return value
  return Array.isArray(value) ? Number(value[0]) : 0
}

const project = useProject()
const node = computed(() => (project.selected.length === 1 ? nodeOf(project.page, project.selected[0]!) : undefined))
const kind = computed(() => node.value && kindFor(node.value))
const maps = computed(() => project.tables?.mesh.maps ?? [])
const sets = computed(() => project.tables?.sets ?? [])

const wired = (input: string): boolean =>
  project.page.wires.some(w => w.to.node === node.value!.id && w.to.port === input)
/** Inputs of the open recipe's nodes that are fed from outside of it. */
const outside = computed(() => {
  const recipe = project.scope.length
    ? nodeOf(pageOf(project.look, project.scope.slice(0, -1)), project.scope.at(-1)!)?.recipe
    : undefined
  return new Map(recipe?.inputs.flatMap(i => i.to.map(t => [`${t.node}/${t.port}`, i.title] as const)))
})
const inputs = computed(() =>
  Object.entries(kind.value?.inputs ?? {})
    .filter(([name, d]) => !d.when || wired(name) || d.when(p => paramOf(node.value!, p)))
    .map(([name, d]) => {
      const wire = project.page.wires.find(w => w.to.node === node.value!.id && w.to.port === name)
      const source = wire && nodeOf(project.page, wire.from.node)
      const type = inputType(node.value!, d)
      const value = paramOf(node.value!, name)
      return {
        name,
        d,
        type,
        wire,
        from: source && titleOf(source),
        number: numberIn(value),
        color: (typeof value === 'number' ? [value, value, value] : value) as Triple,
        defaultNumber: typeof d.default === 'number' ? d.default : d.default?.[0],
      }
    }),
)
const params = computed(() =>
  Object.entries(kind.value?.params ?? {})
    .filter(([, d]) => !d.when || d.when(name => paramOf(node.value!, name), wired))
    .map(([name, d]) => ({ name, d, value: paramOf(node.value!, name)! })),
)
const mapChoices = computed(() =>
  maps.value.map(m => ({ value: m.name, title: `${m.name} (${m.components} per vertex)` })),
)
const setChoices = computed(() =>
  sets.value.map(({ set: { name }, members }) => {
    const inside = members.reduce((n, x) => n + x, 0)
    return { value: name, title: `${name} (${count(inside, 'part')})` }
  }),
)
const numbersUpTo = (n: number): { value: number; title: string }[] =>
  ['First', 'Second', 'Third', 'Fourth'].slice(0, n).map((title, value) => ({ value, title }))
const components = computed(() => maps.value.find(m => m.name === paramOf(node.value!, 'map'))?.components ?? 1)

function set(name: string, value: ParamValue | undefined): void {
  const { id } = node.value!
  const title = (kind.value!.params[name] ?? kind.value!.inputs[name])!.title
  project.editPage(`${titleOf(node.value!)}: ${title}`, look => setParam(look, id, name, value), `${id}/${name}`)
}
function setOnce(name: string, value: ParamValue | undefined): void {
  set(name, value)
  project.settle()
}
const rename = (id: string, text: string): void => project.editPage('Rename', look => renameNode(look, id, text))
const isDefault = (name: string): boolean => node.value?.params[name] === undefined
const anyChanged = computed(() =>
  Object.keys(kind.value?.params ?? {})
    .concat(Object.keys(kind.value?.inputs ?? {}))
    .some(n => !isDefault(n) && kind.value!.params[n]?.type !== 'seed'),
)
function resetAll(): void {
  const { id } = node.value!
  const names = [...Object.keys(kind.value!.params), ...Object.keys(kind.value!.inputs)]
  project.editPage('Reset all', look =>
    names.filter(n => kind.value!.params[n]?.type !== 'seed').reduce((l, n) => setParam(l, id, n, undefined), look),
  )
}
const exposed = computed(() => exposedIn(project.look).filter(e => e.node === node.value?.id))
const mesh = useMesh()
/** Outlines the parts that a finding is about. */
function showParts(keys: readonly string[]): void {
  const wanted = new Set(keys)
  const parts = project.tables?.parts.parts ?? []
  mesh.select(parts.flatMap((p, i) => (wanted.has(p.key) ? [i] : [])))
}
const findings = computed(() => project.findings.filter(f => !project.scope.length && f.node === node.value?.id))
</script>

<template>
  <section class="panel" aria-label="Controls">
    <template v-if="node && kind">
      <header>
        <TextField
          :key="node.id"
          plain
          class="title"
          :value="node.name ?? ''"
          :placeholder="kind.title"
          label="Name of the node"
          :limit="80"
          @change="rename(node.id, $event)"
        />
        <UButton variant="bare" v-if="anyChanged" class="quiet" @click="resetAll">Reset all</UButton>
      </header>
      <p class="help">{{ kind.help }}</p>
      <RecipeSettings v-if="node.recipe" :key="node.id" :node="node" />
      <p v-for="f in findings" :key="f.message" class="finding">
        <UIcon name="i-lucide-triangle-alert" /> {{ f.message }}
        <UButton
          variant="link"
          v-for="fix in f.fixes"
          :key="fix.label"
          class="fix"
          @click="project.editPage(fix.label, look => setParams(look, f.node!, fix.set))"
        >
          {{ fix.label }}
        </UButton>
        <UButton v-if="f.parts" variant="link" class="fix" @click="showParts(f.parts)">Show on the stage</UButton>
      </p>

      <template v-for="{ name, d, value } in params" :key="name">
        <NumberField
          v-if="d.type === 'number'"
          :label="d.title"
          :help="d.help"
          :value="Number(value)"
          :shape="d"
          :whole="d.whole"
          :default-value="d.default"
          @change="set(name, $event)"
          @settle="project.settle()"
          @reset="setOnce(name, undefined)"
        />
        <div v-else-if="d.type === 'seed'" class="seed">
          <NumberField
            :label="d.title"
            :help="d.help"
            :value="Number(value)"
            :shape="{ min: 0, max: 16777215, step: 1 }"
            whole
            @change="set(name, $event)"
            @settle="project.settle()"
          />
          <UButton variant="bare" class="quiet" @click="setOnce(name, freshSeed(project.page))">Another</UButton>
        </div>
        <ColorField
          v-else-if="d.type === 'color'"
          :label="d.title"
          :help="d.help"
          :value="value as Triple"
          @change="set(name, $event)"
          @settle="project.settle()"
        />
        <StopsField
          v-else-if="d.type === 'stops'"
          :key="node.id"
          :label="d.title"
          :help="d.help"
          :value="value as Stop[]"
          :even="paramOf(node, 'between') !== 'linear'"
          @change="set(name, $event)"
          @settle="project.settle()"
        />
        <ChannelsField
          v-else-if="d.type === 'channels'"
          :label="d.title"
          :help="d.help"
          :value="value as Channel[]"
          @change="setOnce(name, $event)"
        />
        <CurveField
          v-else-if="d.type === 'curve'"
          :key="`${node.id}/${name}`"
          :label="d.title"
          :help="d.help"
          :value="value as CurvePoint[]"
          @change="set(name, $event)"
          @settle="project.settle()"
        />
        <PaletteField
          v-else-if="d.type === 'palette'"
          :key="`${node.id}/${name}`"
          :label="d.title"
          :help="d.help"
          :value="value as Stop[]"
          @change="set(name, $event)"
          @settle="project.settle()"
        />
        <PinsField
          v-else-if="d.type === 'pins'"
          :key="`${node.id}/${name}`"
          :label="d.title"
          :help="d.help"
          :node="node.id"
          :param="name"
          :rolls="d.rolls !== false"
          :value="value as Pin[]"
          @change="set(name, $event)"
          @settle="project.settle()"
        />
        <GeometryMapField
          v-else-if="d.type === 'map' && d.of === 'geometry'"
          :label="d.title"
          :help="d.help"
          :value="String(value)"
          @change="setOnce(name, $event)"
        />
        <PictureField
          v-else-if="d.type === 'picture'"
          :label="d.title"
          :help="d.help"
          :optional="d.optional"
          :value="String(value)"
          @change="setOnce(name, $event)"
        />
        <EchoField
          v-else-if="d.type === 'port'"
          :label="d.title"
          :help="d.help"
          :value="String(value)"
          @change="setOnce(name, $event)"
        />
        <div v-else class="ub-row">
          <span :title="d.help">{{ d.title }}</span>
          <ChoiceField
            v-if="d.type === 'choice'"
            :value="String(value)"
            :label="d.title"
            :choices="d.options"
            @change="setOnce(name, $event)"
          />
          <ChoiceField
            v-else-if="d.type === 'map'"
            :value="String(value)"
            :label="d.title"
            :choices="mapChoices"
            :none="d.optional ? 'The first' : 'Choose a map'"
            :gone="`${value} (not on this mesh)`"
            @change="setOnce(name, $event)"
          />
          <ChoiceField
            v-else-if="d.type === 'set'"
            :value="String(value)"
            :label="d.title"
            :choices="setChoices"
            none="Choose a part set"
            :gone="`${value} (not in this project)`"
            @change="setOnce(name, $event)"
          />
          <ChoiceField
            v-else-if="d.type === 'component'"
            :value="Number(value)"
            :label="d.title"
            :choices="numbersUpTo(Math.max(components, Number(value) + 1))"
            @change="setOnce(name, $event)"
          />
          <UCheckbox
            v-else
            :model-value="Boolean(value)"
            :aria-label="d.title"
            @update:model-value="setOnce(name, Boolean($event))"
            @keydown.stop
          />
        </div>
      </template>

      <template v-for="i in inputs" :key="i.name">
        <p v-if="i.wire" class="ub-row">
          <span :title="i.d.help">{{ i.d.title }}</span><span class="from">from {{ i.from }}</span>
        </p>
        <p v-else-if="outside.has(`${node.id}/${i.name}`)" class="ub-row">
          <span :title="i.d.help">{{ i.d.title }}</span
          ><span class="from">from outside: {{ outside.get(`${node.id}/${i.name}`) }}</span>
        </p>
        <NumberField
          v-else-if="i.type === 'value'"
          :label="i.d.title"
          :help="i.d.help"
          :value="i.number"
          :shape="i.d.shape ?? UNIT_SHAPE"
          :default-value="i.defaultNumber"
          @change="set(i.name, $event)"
          @settle="project.settle()"
          @reset="setOnce(i.name, undefined)"
        />
        <ColorField
          v-else-if="i.type === 'color'"
          :label="i.d.title"
          :help="i.d.help"
          :value="i.color"
          @change="set(i.name, $event)"
          @settle="project.settle()"
        />
        <p v-else class="ub-row">
          <span :title="i.d.help">{{ i.d.title }}</span><span class="from">not connected: {{ i.d.missing }}</span>
        </p>
      </template>
      <FoldOut
        v-if="!project.scope.length"
        class="expose"
        :label="exposed.length ? `In variants (${exposed.length})` : 'In variants'"
      >
        <p class="help">What a kept variant of the look remembers of this node, besides seeds and palettes.</p>
        <UCheckbox
          v-for="e in exposable(project.look, node)"
          :key="e.param"
          :label="e.title"
          :model-value="isExposed(project.look, node.id, e.param)"
          @update:model-value="
            project.edit(`${titleOf(node)}: ${e.title} in variants`, look =>
              expose(look, node!.id, e.param, Boolean($event)),
            )
          "
        />
      </FoldOut>
      <NodeReadings />
    </template>
    <p v-else-if="node" class="help">
      This version does not know the node kind “{{ node.kind }}”. It does nothing; removing it is safe.
    </p>
    <p v-else-if="project.selected.length > 1" class="help">{{ project.selected.length }} nodes are selected.</p>
    <template v-else>
      <p class="help">Select a node to see its settings and what it puts out. Double-click the canvas to add one.</p>
      <VariantList v-if="project.look.nodes.length > 1" />
    </template>
  </section>
</template>

<style scoped>
.panel {
  overflow-y: auto;
  padding: 10px 6px 16px 14px;
  scrollbar-width: thin;
}
header {
  display: flex;
  align-items: center;
  gap: 8px;
  padding-right: 26px;
}
.title {
  flex: 1;
  min-width: 0;
  font-size: 15px;
  font-weight: 600;
  background: none;
  border: 0;
  padding: 1px 0;
}
.title::placeholder {
  color: var(--ub-text);
  opacity: 1;
}
.help {
  color: var(--ub-quiet);
  padding: 2px 26px 8px 0;
  max-width: 60ch;
}
.finding {
  color: var(--ub-warn);
  padding: 0 26px 8px 0;
}
.fix {
  margin-right: 12px;
}
.expose {
  padding: 10px 26px 4px 0;
}
.from {
  color: var(--ub-text);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.quiet {
  color: var(--ub-quiet);
  text-decoration: underline;
  text-underline-offset: 3px;
  text-decoration-color: var(--ub-line-strong);
  white-space: nowrap;
}
.quiet:hover {
  color: var(--ub-accent);
}
.seed {
  display: grid;
  grid-template-columns: 1fr 64px;
  align-items: center;
}
.seed :deep(.row) {
  grid-template-columns: 112px 1fr 0;
}
</style>
