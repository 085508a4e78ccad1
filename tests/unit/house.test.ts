import { cpSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, appendFileSync } from 'node:fs'
import { execFileSync } from 'node:child_process'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import fc from 'fast-check'
import { afterAll, describe, expect, it } from 'vitest'
import { castRound, computeMap, isCast } from '#core/geometry/compute'
import { Geometry } from '#core/geometry/geometry'
import { MAP_KINDS, suggestedSettings, type MapSettings } from '#core/geometry/maps'
import { projectNamed } from '#core/exchange/names'
import { addNode } from '#core/graph/edit'
import { emptyLook, type Look } from '#core/graph/look'
import { roomFor } from '#core/graph/room'
import { findParts } from '#core/mesh/parts'
import { removeFolder } from '../folders'
import { row } from '../helpers'
import { MUTANTS } from '../mutants.mjs'

describe('the code', () => {
  it('has no circle, no function over a screen, no control of the browser where the library has one', () => {
    const told = JSON.parse(execFileSync(process.execPath, ['scripts/figures.mjs'], { encoding: 'utf8' })) as {
      circle: string[][]
      longFunctions: string[]
      nativeControls: Record<string, number>
      linesThatCouldBeBroken: string[]
      shareOver120: number
    }
    expect(told.circle).toEqual([])
    expect(told.longFunctions).toEqual([])
    // The number field, and the eye of each output of each card.
    const { input, button, ...others } = told.nativeControls
    expect([input, button]).toEqual([1, 1])
    expect(Object.values(others).every(n => n === 0)).toBe(true)
    expect(told.linesThatCouldBeBroken).toEqual([])
    expect(told.shareOver120).toBeLessThan(0.01)
  })
})

describe('deliberate faults', () => {
  // Where one of them has been put in, its place is another.
  it.skipIf(process.env.UBBLET_FAULT)('each change a place that is there once', () => {
    const lost = MUTANTS.filter(({ file, from }) => readFileSync(file, 'utf8').split(from).length !== 2)
    expect(lost).toEqual([])
  })
})

describe('a new card', () => {
  const size = { width: 162, height: 220 }
  const place = fc.tuple(fc.integer({ min: -900, max: 900 }), fc.integer({ min: -900, max: 900 }))
  it('stays where it is wished when nothing is there, and never lies on another', () => {
    fc.assert(
      fc.property(fc.array(place, { maxLength: 14 }), place, (taken, wish) => {
        const empty: Look = { ...emptyLook(), nodes: [] }
        const look = taken.reduce((l, at) => addNode(l, 'noise', at).look, empty)
        const [x, y] = roomFor(look, wish, size, () => size)
        const meets = (a: [number, number]): boolean =>
          taken.some(t => Math.abs(a[0] - t[0]) < size.width && Math.abs(a[1] - t[1]) < size.height)
        expect(meets([x, y])).toBe(false)
        const near = taken.some(
          t => Math.abs(wish[0] - t[0]) < size.width + 24 && Math.abs(wish[1] - t[1]) < size.height + 24,
        )
        if (!near) expect([x, y]).toEqual(wish)
      }),
    )
  })
})

describe('a project', () => {
  it('goes by its mesh file until somebody names it', () => {
    expect(projectNamed('New project', 'Harbor crane.v2.glb', null)).toBe('Harbor crane')
    expect(projectNamed('Harbor crane', 'Harbor crane unwrapped.glb', 'Harbor crane.v2.glb')).toBe('Harbor crane')
    expect(projectNamed('Harbor crane', 'folder\\Gantry.obj', 'Harbor crane.glb')).toBe('Gantry')
    expect(projectNamed('My crane', 'Gantry.obj', 'Harbor crane.glb')).toBe('My crane')
    expect(projectNamed('New project', '.glb', null)).toBe('New project')
  })
})

describe('kinds of geometry maps', () => {
  it('are all in the menu, and each can be suggested and computed', () => {
    const files = readdirSync('core/geometry/maps').filter(f => !['declare.ts', 'index.ts'].includes(f))
    expect([...MAP_KINDS].sort()).toEqual(files.map(f => f.replace('.ts', '')).sort())
    const mesh = row(2)
    const geometry = new Geometry(mesh, findParts(mesh))
    for (const kind of MAP_KINDS) {
      const settings = suggestedSettings(kind, 3)
      expect(
        computeMap(geometry, 'rays' in settings ? { ...settings, rays: 4 } : settings)!.values.every(Number.isFinite),
        kind,
      ).toBe(true)
    }
  })
  it('that nobody knows throw, and are not taken for a map that was stopped', () => {
    const mesh = row(1)
    const geometry = new Geometry(mesh, findParts(mesh))
    const odd = { kind: 'dew', name: 'dew' } as unknown as MapSettings
    expect(() => computeMap(geometry, odd)).toThrow('Nothing is known of the kind')
    const cast = { kind: 'dew', name: 'dew', rays: 8 } as unknown as MapSettings
    const round = { from: 0, to: 1, first: 0, last: 8 }
    const sums = new Float32Array(1)
    expect(() => isCast(cast)).toThrow('Nothing is known of the kind')
    expect(() => castRound(geometry.scene, geometry.surface, cast as never, round, sums)).toThrow('Nothing is known')
    const facing = suggestedSettings('facing', 1)
    expect(() => castRound(geometry.scene, geometry.surface, facing as never, round, sums)).toThrow('not cast by rays')
  })
})

describe('what is kept between runs', () => {
  const folder = mkdtempSync(join(tmpdir(), 'ubblet-versions-'))
  afterAll(() => removeFolder(folder))
  it('is known by a hash of what computes it: another program computes it anew', () => {
    for (const path of ['core', 'node/bake', 'package-lock.json']) cpSync(path, join(folder, path), { recursive: true })
    mkdirSync(join(folder, 'scripts'))
    const versions = (): string[] => {
      execFileSync(process.execPath, [resolve('scripts/versions.mjs')], { cwd: folder })
      return [
        ...readFileSync(join(folder, 'core/kernels/generated/versions.ts'), 'utf8').matchAll(/'([0-9a-f]{16})'/g),
      ].map(m => m[1]!)
    }
    const [geometry, bake] = versions()
    expect(versions()).toEqual([geometry, bake])
    appendFileSync(join(folder, 'core/graph/edit.ts'), '\n// changed\n')
    const [sameGeometry, otherBake] = versions()
    expect([sameGeometry === geometry, otherBake === bake]).toEqual([true, false])
    appendFileSync(join(folder, 'core/geometry/curvature.ts'), '\n// changed\n')
    expect(versions()[0]).not.toBe(geometry)
  })
})
