import { DataUtils } from 'three'
// @ts-expect-error It is of three.js's own sources, which declare no types.
import { getDFGLUT } from 'three/src/renderers/shaders/DFGLUTData.js'
import { beforeAll, describe, expect, it } from 'vitest'
import { encodeSrgb } from '../../core/color/convert'
import { boundsOf } from '../../core/mesh/mesh'
import { CHANNEL_NAMES } from '../../core/graph/types'
import { loadKernels, type Kernels } from '../../core/kernels/kernels'
import { albedo } from '../../core/light/albedo'
import { contactOf } from '../../core/light/contact'
import { keyOfRig } from '../../core/light/keyLight'
import { Prefiltered, prefilteredRig } from '../../core/light/prefiltered'
import { ShadowMap } from '../../core/light/shadowMap'
import type { Shot } from '../../core/light/shot'
import { still, stills, type StillSettings, type StillView } from '../../core/light/still'
import { turnedAround, unit, type Vector } from '../../core/mesh/vector'
import { radianceOf } from '../../core/trace/light'
import { RIGS, type RigName } from '../../core/trace/rigs'
import type { ParamValue } from '../../core/nodes/declare'
import { boxes, lookOf, notSo, tablesOf } from '../helpers'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

/** What a prefiltered light shows of a direction at a roughness, and what falls on a surface there. */
function seen(light: Prefiltered, d: Vector, roughness: number): { mirrored: number[]; falling: number[] } {
  const [mirrored, falling] = [new Float64Array(3), new Float64Array(3)]
  light.mirrored(...d, roughness, mirrored)
  light.falling(...d, falling)
  return { mirrored: [...mirrored], falling: [...falling] }
}

describe('surroundings, prefiltered', () => {
  it('are the same in every direction and at every roughness where they are even, and pi times that falls on a surface', () => {
    const even = new Prefiltered(() => [0.5, 1, 2])
    for (const d of [unit([1, 1, 1]), unit([-0.2, 1, 0.1]), [0, 0, -1] as Vector])
      for (const roughness of [0, 0.2, 0.5, 1]) {
        const { mirrored, falling } = seen(even, d, roughness)
        ;[0.5, 1, 2].forEach((x, k) => {
          expect(mirrored[k]).toBeCloseTo(x, 5)
          expect(falling[k]).toBeCloseTo(x * Math.PI, 5)
        })
      }
  })

  it('of a sky that is bright above light what faces up by the cosines: 2/3 of a radiance that is the height', () => {
    const above = new Prefiltered(([, y]) => Array(3).fill(Math.max(0, y)) as number[])
    // The integral of the squared height over the half sphere.
    expect(seen(above, [0, 1, 0], 1).falling[0]! / ((2 * Math.PI) / 3)).toBeCloseTo(1, 1)
    expect(seen(above, [0, -1, 0], 1).falling[0]!).toBeLessThan(0.01)
    // A mirror shows what is there, in the direction that it is asked for.
    expect(seen(above, unit([1, 1, 0]), 0).mirrored[0]).toBeCloseTo(Math.SQRT1_2, 2)
  })

  it('are a cube map, too: each face of each level as OpenGL lays it out, seen in a mirror', () => {
    const levels = new Prefiltered(d => d.map(x => 1 + x)).cubeMap()
    expect(levels.map(l => [l.size, l.faces.length])).toEqual([64, 32, 16, 8].map(size => [size, 6]))
    // What lies in the upper left corner of each face as it is stored: which way x, y and z point there.
    const corners = [
      [-1, 1, 1],
      [1, 1, -1],
      [1, 1, -1],
      [1, -1, 1],
      [1, 1, 1],
      [-1, 1, -1],
    ]
    for (const { size, faces } of levels)
      faces.forEach((face, i) => {
        expect([...face.slice(0, 3)].map(c => Math.sign(c - 1))).toEqual(corners[i])
        // To the right and down of it the direction turns as far as a face is wide.
        const middle = ((size / 2) * size + size / 2) * 3
        expect([...face.slice(middle, middle + 3)].filter(c => Math.abs(c - 1) < 0.15)).toHaveLength(2)
        expect(face).toHaveLength(size * size * 3)
      })
    const [sharp] = levels
    const along = (row: number, column: number): number[] => [
      ...sharp!.faces[4]!.slice((row * 64 + column) * 3).slice(0, 3),
    ]
    // The face toward z: x falls to the right, seen in the mirror, and y falls from row to row.
    expect(along(10, 40)[0]!).toBeLessThan(along(10, 20)[0]!)
    expect(along(40, 10)[1]!).toBeLessThan(along(20, 10)[1]!)
    expect(along(32, 32)[2]!).toBeGreaterThan(1.9)
  })

  it.each(Object.keys(RIGS) as RigName[])(
    'of %s light a surface that faces the key by its irradiance and the dome',
    rig => {
      const { from, irradiance } = keyOfRig(rig)
      const away = turnedAround(from, 180)
      const difference = seen(prefilteredRig(rig), from, 1).falling[0]! - seen(prefilteredRig(rig), away, 1).falling[0]!
      if (RIGS[rig].panels.length === 1) expect(Math.abs(difference / irradiance[0] - 1)).toBeLessThan(0.12)
      expect(difference).toBeGreaterThan(-1e-3)
    },
  )

  it('show a plate nowhere but where it is, not even in a direction that runs along it exactly', () => {
    const radiance = radianceOf(RIGS.lowSun)
    // At right angles to the way to the plate at (-14, 4.5, 6): its dot product is 0 to the last bit.
    const along: Vector = [0.046875, -1, 0.859375]
    expect(-14 * along[0] + 4.5 * along[1] + 6 * along[2]).toBe(0)
    expect(radiance(along)[0]).toBeLessThan(1)
    expect(radiance(unit([-14, 4.5, 6]))[0]).toBe(260)
  })
})

describe('what a surface reflects of light from everywhere', () => {
  it('is the table of three.js', () => {
    const theirs = getDFGLUT().image.data as unknown as Uint16Array
    const ours = new Float64Array(2)
    let sum = 0
    for (let y = 0; y < 16; y++)
      for (let x = 0; x < 16; x++) {
        albedo((x + 0.5) / 16, (y + 0.5) / 16, ours)
        for (const k of [0, 1]) {
          const off = Math.abs(ours[k]! - DataUtils.fromHalfFloat(theirs[(y * 16 + x) * 2 + k]!))
          expect(off).toBeLessThan(0.02)
          sum += off
        }
      }
    expect(sum / 512).toBeLessThan(0.002)
  })
})

describe('the shadow of the key', () => {
  const tables = tablesOf(boxes([{ object: 'a', at: [0, 0, 0] }]))
  const box = boundsOf(tables.mesh.positions, tables.mesh.indices)
  const [low, high] = [box.min, box.max]
  const middle = low.map((x, k) => (x + high[k]!) / 2) as Vector
  const up = [0, 1, 0]

  it('falls away from the lamp: on the ground to the right where that is on the left, and on nothing before it', () => {
    const map = new ShadowMap(kernels, tables, box, unit([-1, 1, 0]), 0.02)
    const size = high[0] - low[0]
    const at = (dx: number, dz = 0): number =>
      map.reached(middle[0] + dx * size, low[1], middle[2] + dz * size, up, 0.3)
    expect(at(0.9)).toBe(0)
    expect(at(-0.9)).toBe(1)
    expect(at(2.2)).toBe(1)
    expect(at(0.9, 0.9)).toBe(1)
    // On top of the box itself there is none, whatever the map's pixels are.
    expect(map.reached(middle[0], high[1], middle[2], up, 0.3)).toBe(1)
  })

  it('is soft by the opening of the lamp', () => {
    const edge = (radius: number): number => {
      const map = new ShadowMap(kernels, tables, box, unit([-1, 1, 0]), radius)
      const size = high[0] - low[0]
      const shares = Array.from({ length: 200 }, (_, i) =>
        map.reached(middle[0] + (1 + i / 200) * size, low[1], middle[2], up, (i * 0.618) % 1),
      )
      return shares.filter(s => s > 0 && s < 1).length
    }
    expect(edge(0.2)).toBeGreaterThan(2 * edge(0.01))
  })

  it('tells how deep the mesh is below what the light meets first', () => {
    const map = new ShadowMap(kernels, tables, box, [0, 1, 0], 0.02)
    expect(map.depth(middle[0], high[1], middle[2])).toBeCloseTo(0, 4)
    expect(map.depth(middle[0], low[1], middle[2])).toBeCloseTo(high[1] - low[1], 4)
    expect(map.depth(high[0] + 1, low[1], middle[2])).toBe(0)
  })
})

describe('contact', () => {
  /** A floor and a wall that meet at half of the picture's height, seen from the front; or the floor alone. */
  function corner(wall: boolean): Shot {
    const [width, height] = [48, 48]
    const relief = new Float32Array(width * height * 4)
    const facing = new Float32Array(width * height * 4)
    // The camera stands 1 m above the floor and looks down by 45 degrees; the wall stands where the floor is seen in
    // the middle.
    const [sin, cos] = [Math.SQRT1_2, Math.SQRT1_2]
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const at = (y * width + x) * 4
        const t = (((y + 0.5) / height) * 2 - 1) * 0.4
        // Along the ray (t up, 1 forward): forward = cos - t sin... in the world: down by sin - t cos.
        const [ahead, down] = [cos + t * sin, sin - t * cos]
        const floor = 1 / down
        const toWall = 1 / ahead
        const onWall = wall && toWall < floor
        relief[at + 1] = onWall ? toWall : floor
        relief[at + 3] = 1
        facing[at + (onWall ? 2 : 1)] = 1
      }
    const lens = {
      eye: [0, 1, 0],
      right: [1, 0, 0],
      up: [0, cos, -sin],
      back: [0, sin, cos],
      wide: 0.4,
      tall: 0.4,
    } as const
    return {
      painted: { relief, facing },
      width,
      height,
      lens: { ...lens, eye: [...lens.eye], right: [...lens.right], up: [...lens.up], back: [...lens.back] },
      sample: 0,
      shift: [0, 0],
      bends: false,
    }
  }
  const mean = (open: Float32Array, y: number): number => open.slice(y * 48, y * 48 + 48).reduce((a, b) => a + b) / 48

  it('darkens where two surfaces meet, and not what lies open', () => {
    const met = contactOf(corner(true), 0.3)
    const alone = contactOf(corner(false), 0.3)
    for (const y of [8, 23, 40]) expect(mean(alone, y)).toBeGreaterThan(0.97)
    expect(mean(met, 23)).toBeLessThan(0.8)
    expect(mean(met, 24)).toBeLessThan(0.8)
    expect(mean(met, 3)).toBeGreaterThan(0.97)
    expect(mean(met, 23)).toBeLessThan(mean(met, 16))
  })
  it('leaves the ground alone, which hides nothing from itself, however flatly it is seen', () => {
    const shot = corner(false)
    const relief = shot.painted.relief!
    // But for one pixel of a surface.
    for (let i = 1; i < relief.length / 4; i++) relief[i * 4 + 3] = -1
    for (const y of [8, 24, 47]) expect(mean(contactOf(shot, 0.3), y)).toBe(1)
  })
  it('reaches no farther than it is told', () => {
    expect(mean(contactOf(corner(true), 0.05), 20)).toBeGreaterThan(mean(contactOf(corner(true), 0.6), 20) + 0.1)
  })
})

describe('a still of a look', () => {
  it('has the background around the mesh, its color upon it, and more light from the lamp', () => {
    const tables = tablesOf(boxes([{ object: 'a', at: [0, 0, 0] }]))
    const look = lookOf({ finish: ['finish', { baseColor: [0.8, 0.1, 0.05], roughness: 1 }] }, [
      'finish.finish > result.finish',
    ])
    const pixels = still(kernels, tables, look, { width: 60, height: 40, rig: 'overcast', background: [0.5, 0.6, 0.7] })
    const at = (x: number, y: number) => [0, 1, 2].map(k => pixels[(y * 60 + x) * 4 + k]!)
    ;[128, 153, 179].forEach((x, k) => expect(Math.abs(at(1, 1)[k]! - x)).toBeLessThanOrEqual(1))
    const [r, g, b] = at(30, 24) as [number, number, number]
    expect(r).toBeGreaterThan(g * 1.7)
    expect(g).toBeGreaterThan(b)
    // The front against the right side, which the main lamp does not reach.
    expect(r).toBeGreaterThan(at(42, 22)[0]! + 4)
  })
  it('shows a channel as it is, without light: a color encoded, a number as gray, a millimeter as three quarters', () => {
    const tables = tablesOf(boxes([{ object: 'a', at: [0, 0, 0] }]))
    const look = lookOf(
      {
        finish: [
          'finish',
          {
            baseColor: [0.8, 0.1, 0.05],
            roughness: 0.4,
            metalness: 0.2,
            height: 1,
            emission: [0, 0.5, 0],
            sets: [...CHANNEL_NAMES],
          },
        ],
      },
      ['finish.finish > result.finish'],
    )
    const settings = { width: 30, height: 20, rig: 'overcast', background: [0, 0, 0] } as const
    const middle = (show: StillView) => [
      ...still(kernels, tables, look, { ...settings, background: [...settings.background], show }).slice(
        (12 * 30 + 15) * 4,
        (12 * 30 + 15) * 4 + 3,
      ),
    ]
    const bytes = (...list: number[]) => list.map(x => Math.round(x * 255))
    expect(middle('baseColor')).toEqual(bytes(...[0.8, 0.1, 0.05].map(encodeSrgb)))
    expect(middle('roughness')).toEqual(bytes(0.4, 0.4, 0.4))
    expect(middle('metalness')).toEqual(bytes(0.2, 0.2, 0.2))
    expect(middle('height')).toEqual(bytes(0.75, 0.75, 0.75))
    expect(middle('emission')[1]!).toBeGreaterThan(middle('emission')[0]!)
  })

  const one = boxes([{ object: 'a', at: [0, 0, 0] }])
  const plain = (params: Record<string, ParamValue>) =>
    lookOf({ finish: ['finish', params] }, ['finish.finish > result.finish'])
  const pictureOf = (
    settings: Partial<StillSettings>,
    params: Record<string, ParamValue> = { baseColor: [0.5, 0.5, 0.5] },
    turn?: number,
  ) => {
    const asked: StillSettings = { width: 60, height: 40, rig: 'overcast', background: [0.5, 0.5, 0.5], ...settings }
    const data = stills(kernels, tablesOf(one), asked)(plain(params), turn)
    return (x: number, y: number) => [0, 1, 2].map(k => data[(y * 60 + x) * 4 + k]!) as Vector
  }
  it('leaves out what it is told to: the ground with its shadow, the shadow, and what darkens contacts', () => {
    const whole = pictureOf({ rig: 'lowSun' })
    const bare = pictureOf({ rig: 'lowSun', without: ['ground'] })
    const unshaded = pictureOf({ rig: 'lowSun', without: ['shadows'] })
    const open = pictureOf({ rig: 'lowSun', without: ['shadows', 'contact'] })
    // To the right of the box, away from the sun.
    expect(whole(52, 30)[0]).toBeLessThan(110)
    expect(bare(52, 30)).toEqual([128, 128, 128])
    expect(unshaded(52, 30)[0]).toBeGreaterThan(115)
    expect(open(52, 30)[0]).toBeGreaterThanOrEqual(unshaded(52, 30)[0])
    expect(open(30, 36)[0]).toBeGreaterThan(unshaded(30, 36)[0])
  })
  it('is darkened on the mesh, too, where a part stands before the key light, and nowhere brightened', () => {
    const two = tablesOf(
      boxes([
        { object: 'a', at: [-0.8, 0, 0.6] },
        { object: 'b', at: [0.8, 0, 0] },
      ]),
    )
    const asked: StillSettings = {
      width: 90,
      height: 60,
      rig: 'lowSun',
      background: [0.5, 0.5, 0.5],
      without: ['ground'],
    }
    const look = plain({ baseColor: [0.5, 0.5, 0.5] })
    const shaded = still(kernels, two, look, asked)
    const unshaded = still(kernels, two, look, { ...asked, without: ['ground', 'shadows'] })
    expect(notSo(shaded, (x, i) => x <= unshaded[i]! + 1)).toEqual([])
    expect(shaded.filter((x, i) => x < unshaded[i]! - 20).length).toBeGreaterThan(60)
  })
  it('of metal mirrors in its color, and shines where a dielectric is dark', () => {
    const metal = pictureOf({}, { baseColor: [0.9, 0.3, 0.1], metalness: 1, roughness: 0.2 })(30, 20)
    const dielectric = pictureOf({}, { baseColor: [0, 0, 0], metalness: 0, roughness: 0.2 })(30, 20)
    expect(metal[0]).toBeGreaterThan(metal[2] + 50)
    expect(Math.max(...dielectric) - Math.min(...dielectric)).toBeLessThan(3)
    expect(dielectric[0]).toBeLessThan(metal[0])
  })
  it('keeps camera and light while the mesh is turned: a box turned by a quarter is lit as before', () => {
    const [before, after] = [pictureOf({ rig: 'lowSun' }, undefined, 0), pictureOf({ rig: 'lowSun' }, undefined, 90)]
    for (const [x, y] of [
      [30, 20],
      [42, 20],
      [52, 30],
      [6, 30],
    ] as const)
      expect(Math.abs(before(x, y)[0] - after(x, y)[0])).toBeLessThan(6)
    expect(before(30, 20)[0]).toBeGreaterThan(before(42, 20)[0] + 20)
  })
  it('lets through as much as the opacity says', () => {
    const clear = pictureOf(
      { without: ['ground'] },
      { baseColor: [0.02, 0.02, 0.02], opacity: 0, sets: [...CHANNEL_NAMES] },
    )
    expect(Math.abs(clear(30, 20)[0] - 127)).toBeLessThan(2)
  })
})
