import { execFileSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { join, relative } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'

/** Within the project, so that its packages are found. */
let folder: string
beforeAll(() => {
  mkdirSync('test-results', { recursive: true })
  folder = mkdtempSync(join('test-results', 'components-'))
  mkdirSync(join(folder, 'app/fields'), { recursive: true })
  const compilerOptions = {
    target: 'ESNext',
    module: 'preserve',
    moduleResolution: 'Bundler',
    strict: true,
    skipLibCheck: true,
    types: [],
    lib: ['ESNext', 'DOM'],
    paths: { '~/*': ['./app/*'] },
  }
  put('tsconfig.json', JSON.stringify({ compilerOptions, include: ['./app/**/*'] }))
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const put = (path: string, text: string): void => writeFileSync(join(folder, path), text)
const script = (text: string): string => `<script setup lang="ts">\n${text}\n</script>\n`
/** What the check says, a finding a line, with paths within the folder. */
function findings(): string[] {
  try {
    const [project, sources, into] = ['tsconfig.json', 'app', 'made'].map(name => join(folder, name))
    execFileSync(process.execPath, ['scripts/components.mjs', project!, sources!, into!], { encoding: 'utf8' })
    return []
  } catch (error) {
    const { stdout } = error as { stdout: string }
    return stdout
      .trim()
      .split('\n')
      .map(line => line.replace(`${relative('.', folder)}/app/`, ''))
  }
}

describe('the check of components', () => {
  it('tells faults of scripts, templates and code that uses components where they are, and nothing of what is made around them', () => {
    // Each branch is asked of what those before it have left: that code is not the artist's.
    put(
      'app/fields/Field.vue',
      script(`type Shape = { of: 'seed'; seed: number } | { of: 'color'; hex: string } | { of: 'text'; text: string }
defineProps<{ shape: Shape; wide?: boolean }>()
const pick = (of: string): void => void of
defineExpose({ focus: (at: number): void => void at })`) +
        `<template>
  <div v-for="(d, i) in [shape]" :key="i">
    <p v-if="d.of === 'seed'" @click="pick(d.of)">{{ d.seed }}</p>
    <p v-else-if="d.of === 'color'" @click="pick(d.of)">{{ d.hex }}</p>
    <p v-else @click="pick(d.of)">{{ d.text }}</p>
  </div>
</template>\n`,
    )
    put('app/shape.ts', "export const seed = { of: 'seed', seed: 3 } as const\n")
    const page = (attributes: string): string =>
      `${script("import Field from '~/fields/Field.vue'\nimport { seed } from './shape'")}<template>\n  <Field ${attributes} />\n</template>\n`
    put('app/Page.vue', page(':shape="seed" wide'))
    put(
      'app/focus.ts',
      "import type Field from './fields/Field.vue'\nexport const focus = (f: InstanceType<typeof Field>) => f.focus(1)\n",
    )
    expect(findings()).toEqual([])

    put('app/Page.vue', page(':shape="seed" :wide="1" :id="nowhere"'))
    put('app/Odd.vue', script("const count: number = 'three'"))
    put(
      'app/focus.ts',
      "import type Field from './fields/Field.vue'\nexport const focus = (f: InstanceType<typeof Field>) => f.focus('')\n",
    )
    const told = findings()
    expect(told.map(line => line.replace(/(TS\d+): .*/, '$1')).sort()).toEqual([
      'Odd.vue(2,7): error TS2322',
      'Page.vue(6,24): error TS2322',
      'Page.vue(6,39): error TS2339',
      'focus.ts(2,65): error TS2345',
    ])
    expect(told.join(' ')).toContain("Type 'string' is not assignable to type 'number'.")
  })
})
