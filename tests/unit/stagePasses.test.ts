import { MeshBVH } from 'three-mesh-bvh'
import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  OrthographicCamera,
  PerspectiveCamera,
  Ray,
  Vector3,
  type Camera,
} from 'three'
import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { Gatherer } from '#core/evaluate/gather'
import { Painter, type Painted } from '#core/evaluate/painter'
import { depthsSeen, rasterize, type Sightline } from '#core/evaluate/rasterize'
import { RepeatedEvaluator, type Site } from '#core/evaluate/repeated'
import type { MeshTables } from '#core/evaluate/tables'
import {
  ditherAt,
  floatsIn,
  GROUND,
  GROUND_PART,
  lanesIn,
  picturesOf,
  pointsAt,
  SEEN_WORDS,
  withNormal,
} from '#core/evaluate/visible'
import { setParam } from '#core/graph/edit'
import type { Look } from '#core/graph/look'
import { kindFor } from '#core/graph/kinds'
import { samplePoints } from '#core/mesh/sample'
import { cut, Repetition, touchedBy } from '#core/program/cut'
import { lower, reader } from '#core/program/lower'
import { SURFACE } from '#core/program/ops'
import { Sample } from '../../app/stage/sample'
import { lineOf as lineThrough, sightOf } from '../../app/stage/sightline'
import { kioskRoofMossLook } from '../../demo/kioskRoofMossLook'
import { boxes, kernels, lookOf, notSo, positionsOf, row, tablesOf } from '../helpers'

/** From where a camera sees as it stands now. */
function lineOf(camera: PerspectiveCamera | OrthographicCamera, width: number, height: number): Sightline {
  camera.updateProjectionMatrix()
  camera.updateMatrixWorld()
  camera.matrixWorldInverse.copy(camera.matrixWorld).invert()
  return lineThrough(camera, width, height)
}
const depthAt = (seen: Uint32Array, pixel: number): number => floatsIn(seen)[pixel * SEEN_WORDS + 3]!

/** What a ray through the middle of a pixel meets, by another program. */
function meet(tables: MeshTables, camera: Camera, px: number, py: number): { triangle: number; point: Vector3 } | null {
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(tables.mesh.positions, 3))
  geometry.setIndex(new BufferAttribute(tables.mesh.indices.slice(), 1))
  const from = new Vector3(px, py, -1).unproject(camera)
  const along = new Vector3(px, py, 1).unproject(camera).sub(from).normalize()
  const hit = new MeshBVH(geometry, { indirect: true }).raycastFirst(new Ray(from, along), DoubleSide)
  return hit ? { triangle: hit.faceIndex!, point: hit.point } : null
}

/** Twice the area to the left of a way: positive where a place lies there. */
const side = (from: readonly [number, number], to: readonly [number, number], x: number, y: number): number =>
  (to[0] - from[0]) * (y - from[1]) - (to[1] - from[1]) * (x - from[0])

describe('what is seen', () => {
  const tables = tablesOf(
    boxes([
      { object: 'a', at: [0, 0, 0] },
      { object: 'b', at: [0.7, 0.3, 0.9] },
      { object: 'c', at: [-0.8, -0.2, 1.4], size: [0.4, 0.5, 0.3] },
    ]),
  )
  const perspective = new PerspectiveCamera(50, 1.5, 0.05, 50)
  const inside = new PerspectiveCamera(80, 1.5, 0.05, 50)
  const straight = new OrthographicCamera(-1.5, 1.5, 1, -1, -20, 20)
  perspective.position.set(1.2, 1.1, 4)
  perspective.lookAt(0.1, 0, 0.5)
  // Between the boxes, so that triangles reach behind it.
  inside.position.set(-0.2, 0.1, 1.1)
  inside.lookAt(1, 0.2, 0.4)
  straight.position.set(0.5, 2, 3)
  straight.lookAt(0, 0, 0)
  it.each([
    ['with perspective', perspective],
    ['from between the parts', inside],
    ['without perspective', straight],
  ] as const)('is what rays meet, %s', (_, camera) => {
    const width = 48
    const height = 32
    const seen = rasterize(kernels, tables.mesh, tables.parts.partOfTriangle, lineOf(camera, width, height), {
      first: 0,
      rows: height,
    })
    const points = pointsAt(
      seen,
      Uint32Array.from({ length: width * height }, (_, i) => i).filter(i => seen[i * SEEN_WORDS]! > 0),
    )
    const places = positionsOf(tables, points)
    let same = 0
    let n = 0
    for (let i = 0; i < width * height; i++) {
      const hit = meet(
        tables,
        camera,
        (((i % width) + 0.5) / width) * 2 - 1,
        ((Math.floor(i / width) + 0.5) / height) * 2 - 1,
      )
      const word = seen[i * SEEN_WORDS]!
      if (!word) {
        if (!hit) same++
        continue
      }
      const at = new Vector3(...places[n++]!)
      if (hit && at.distanceTo(hit.point) < 1e-3) same++
      const depth = -at.applyMatrix4(camera.matrixWorldInverse).z
      expect(depthAt(seen, i)).toBeCloseTo(depth, 4)
    }
    // A ray may slip between two triangles, or stand nearer than a camera sees.
    expect(same / (width * height)).toBeGreaterThan(camera === straight ? 0.99 : 0.985)
    expect(points.count).toBeGreaterThan(200)
  })
  it('is every pixel whose middle a triangle covers, however thin it is and wherever it begins', () => {
    const size = 32
    const identity = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]
    const sight = { clip: identity, world: identity, view: identity, near: -9, width: size, height: size }
    const thousandths = fc.noBias(fc.integer({ min: -2000, max: 2000 })).map(x => x / 1000)
    const place = fc.tuple(thousandths, thousandths)
    let inside = 0
    fc.assert(
      fc.property(place, place, place, (a, b, c) => {
        const positions = Float32Array.from([a, b, c].flatMap(p => [...p, 0]))
        const mesh = { positions, indices: Uint32Array.of(0, 1, 2) }
        const seen = rasterize(kernels, mesh, [0], sight, { first: 0, rows: size })
        const corner = (k: number) => [positions[k * 3]!, positions[k * 3 + 1]!] as const
        // How far a place is on the inner side of each edge, in widths of the picture.
        const ways = (x: number, y: number): number[] => {
          const turns = Math.sign(side(corner(0), corner(1), ...corner(2)))
          return [0, 1, 2].map(k => {
            const [from, to] = [corner(k), corner((k + 1) % 3)]
            return (turns * side(from, to, x, y)) / Math.max(1e-12, Math.hypot(to[0] - from[0], to[1] - from[1]))
          })
        }
        const leasts = Array.from({ length: size * size }, (_, i) =>
          Math.min(...ways((((i % size) + 0.5) / size) * 2 - 1, ((Math.floor(i / size) + 0.5) / size) * 2 - 1)),
        )
        const isSeen = (i: number): boolean => seen[i * SEEN_WORDS]! > 0
        expect(notSo(leasts, (least, i) => Math.abs(least) < 1e-5 || isSeen(i) === least > 0)).toEqual([])
        inside += leasts.filter(least => least >= 1e-5).length
      }),
    )
    expect(inside).toBeGreaterThan(1000)
  })
  it('is in a coarse picture what it is at the same pixels of the whole one, also where corners are put into steps', () => {
    const { mesh, parts } = tablesOf(row(5))
    const camera = new PerspectiveCamera(40, 4 / 3, 0.1, 100)
    camera.position.set(9, 6, 9)
    camera.lookAt(4, 0, 0)
    camera.updateProjectionMatrix()
    camera.updateMatrixWorld()
    const seenAt = (step: number): { sample: Sample; seen: Uint32Array } => {
      const sample = new Sample(`${step}`, step, 0, { width: 256, height: 192 })
      sample.place(camera)
      const rows = { first: 0, rows: sample.height }
      return { sample, seen: rasterize(kernels, mesh, parts.partOfTriangle, sightOf(sample, 16), rows) }
    }
    const whole = seenAt(1)
    for (const step of [2, 4, 8]) {
      const { sample, seen } = seenAt(step)
      let found = 0
      for (let y = 0; y < sample.height; y++) {
        for (let x = 0; x < sample.width; x++) {
          const at = (y * sample.width + x) * SEEN_WORDS
          const there = (y * step * 256 + x * step) * SEEN_WORDS
          expect(seen[at], `${step}: ${x}, ${y}`).toBe(whole.seen[there])
          if (!seen[at]) continue
          found++
          const own = floatsIn(seen).subarray(at + 1, at + SEEN_WORDS)
          expect(notSo(own, (x, k) => Math.abs(x - floatsIn(whole.seen)[there + 1 + k]!) < 5e-6)).toEqual([])
        }
      }
      expect(found).toBeGreaterThan(50)
    }
  })

  it('puts corners into steps of a pixel where it is asked to, as if they were there', () => {
    const size = 32
    const snap = 4
    const identity = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0]
    // None is halfway between two steps, and some are in front of a camera that halves what it sees.
    const places = fc.noBias(fc.integer({ min: -2000, max: 2000 })).map(x => (x + 0.3) / 1000)
    let moved = 0
    fc.assert(
      fc.property(fc.array(places, { minLength: 6, maxLength: 6 }), fc.constantFrom(1, 2), (corners, w) => {
        const draw = (places: number[], snap?: number) => {
          const positions = Float32Array.from([0, 2, 4].flatMap(k => [places[k]! * w, places[k + 1]! * w, 0]))
          const clip = [...identity, w]
          const sight = { clip, world: clip, view: clip, near: -9, width: size, height: size, ...(snap && { snap }) }
          return rasterize(kernels, { positions, indices: Uint32Array.of(0, 1, 2) }, [0], sight, {
            first: 0,
            rows: size,
          })
        }
        const put = corners.map(x => (Math.round(((x + 1) / 2) * size * snap) / snap / size) * 2 - 1)
        const seen = draw(corners, snap)
        expect([...seen]).toEqual([...draw(put)])
        if ([...seen].join() !== [...draw(corners)].join()) moved++
      }),
    )
    expect(moved).toBeGreaterThan(20)
  })
  it('is as far away as a map of distances says, with hidden parts left out', () => {
    const line = lineOf(perspective, 40, 30)
    const { mesh, parts } = tables
    const range = { first: 4, rows: 20 }
    const depths = depthsSeen(kernels, mesh, parts.partOfTriangle, line, range, Uint8Array.of(0, 1, 0))
    const seen = rasterize(kernels, mesh, parts.partOfTriangle, line, range, Uint8Array.of(0, 1, 0))
    expect([...depths]).toEqual(Array.from(depths, (_, i) => depthAt(seen, i)))
    expect(depths.filter(x => x > 0).length).toBeGreaterThan(50)
  })
  it('is the same in parts, whatever the rows; hidden parts are looked through', () => {
    const line = lineOf(perspective, 40, 30)
    const whole = rasterize(kernels, tables.mesh, tables.parts.partOfTriangle, line, { first: 0, rows: 30 })
    const lower = rasterize(kernels, tables.mesh, tables.parts.partOfTriangle, line, { first: 0, rows: 11 })
    const upper = rasterize(kernels, tables.mesh, tables.parts.partOfTriangle, line, { first: 11, rows: 19 })
    expect([...lower, ...upper]).toEqual([...whole])
    const without = rasterize(
      kernels,
      tables.mesh,
      tables.parts.partOfTriangle,
      line,
      { first: 0, rows: 30 },
      Uint8Array.of(0, 1, 0),
    )
    const partsIn = (seen: Uint32Array) =>
      new Set([...seen].filter((w, i) => i % SEEN_WORDS === 0 && w).map(w => tables.parts.partOfTriangle[w - 1]!))
    expect([...partsIn(whole)].sort()).toEqual([0, 1, 2])
    expect([...partsIn(without)].sort()).toEqual([0, 2])
  })
  it('is the same after another mesh was drawn, and for a copy of the mesh', () => {
    const line = lineOf(perspective, 40, 30)
    const range = { first: 0, rows: 30 }
    const { mesh, parts } = tables
    const words = () => [...rasterize(kernels, mesh, parts.partOfTriangle, line, range)]
    const first = words()
    const other = { positions: mesh.positions.map(x => x * 0.5), indices: mesh.indices }
    const small = [...rasterize(kernels, other, parts.partOfTriangle, line, range)]
    expect(small).not.toEqual(first)
    // A picture that needs more memory than there is so far.
    rasterize(kernels, other, parts.partOfTriangle, { ...line, width: 900, height: 900 }, { first: 0, rows: 900 })
    expect(words()).toEqual(first)
    const copy = { positions: mesh.positions.slice(), indices: mesh.indices.slice() }
    expect([...rasterize(kernels, copy, parts.partOfTriangle, line, range)]).toEqual(first)
    expect([...rasterize(kernels, other, parts.partOfTriangle, line, range)]).toEqual(small)
  })
  it('has layers behind one another, each farther away, and a ground seen from above only', () => {
    const line = lineOf(perspective, 40, 30)
    const front = rasterize(kernels, tables.mesh, tables.parts.partOfTriangle, line, { first: 0, rows: 30 })
    const behind = rasterize(
      kernels,
      tables.mesh,
      tables.parts.partOfTriangle,
      line,
      { first: 0, rows: 30 },
      undefined,
      front,
    )
    for (let i = 0; i < 1200; i++) {
      if (behind[i * SEEN_WORDS]) expect(depthAt(behind, i)).toBeGreaterThan(depthAt(front, i))
      // Whatever is seen of a closed box has its far side behind it.
      expect(Boolean(behind[i * SEEN_WORDS])).toBe(Boolean(front[i * SEEN_WORDS]))
    }
    const ground = { y: -0.5, x: 0.3, z: -0.2, reach: 1.5 }
    const above = rasterize(
      kernels,
      tables.mesh,
      tables.parts.partOfTriangle,
      { ...line, ground },
      { first: 0, rows: 30 },
    )
    let seen = 0
    for (let i = 0; i < 1200; i++) {
      const from = new Vector3((((i % 40) + 0.5) / 40) * 2 - 1, ((Math.floor(i / 40) + 0.5) / 30) * 2 - 1, -1)
      from.unproject(perspective)
      const way = from.clone().sub(perspective.position)
      const met = from.clone().addScaledVector(way, (ground.y - from.y) / way.y)
      const isGround = above[i * SEEN_WORDS] === GROUND
      const sides = Math.max(Math.abs(met.x - ground.x), Math.abs(met.z - ground.z))
      if (isGround) {
        seen++
        expect(sides).toBeLessThan(ground.reach + 1e-6)
        expect(depthAt(above, i)).toBeCloseTo(-met.applyMatrix4(perspective.matrixWorldInverse).z, 5)
      } else if (!front[i * SEEN_WORDS] && way.y < 0) expect(sides).toBeGreaterThan(ground.reach - 1e-6)
    }
    expect(seen).toBeGreaterThan(80)
    const below = new PerspectiveCamera(50, 1.5, 0.05, 50)
    below.position.set(0, -2, 4)
    below.lookAt(0, 0, 0)
    expect(
      rasterize(
        kernels,
        tables.mesh,
        tables.parts.partOfTriangle,
        { ...lineOf(below, 40, 30), ground },
        { first: 0, rows: 30 },
      ).includes(GROUND),
    ).toBe(false)
  })
})

/** A look ready to be painted. */
function ready(tables: MeshTables, look: Look) {
  const { program, normal } = withNormal(lower(look, tables.mesh.maps))
  const pictures = picturesOf(program)
  const lanes = lanesIn(pictures, program, normal)
  const evaluator = new RepeatedEvaluator(
    kernels,
    program,
    lanes.filter(ref => ref !== undefined),
    tables,
    new Gatherer(kernels, program, tables),
  )
  evaluator.refresh(reader(look))
  return { evaluator, pictures, lanes }
}
function paint(
  painter: Painter,
  { evaluator, pictures, lanes }: ReturnType<typeof ready>,
  ...rest: [opacity?: number, coarse?: Parameters<Painter['paint']>[4]]
): Partial<Painted> {
  const work = painter.paint(evaluator, pictures, lanes, ...rest)
  let step = work.next()
  while (!step.done) step = work.next()
  return step.value
}

describe('painting', () => {
  const tables = tablesOf(row(3))
  const camera = new PerspectiveCamera(40, 1.6, 0.1, 50)
  camera.position.set(3, 2, 7)
  camera.lookAt(2, 0, 0)
  const look = lookOf(
    {
      noise: ['noise', { size: 40 }],
      draw: ['partRandom', { seed: 3 }],
      finish: ['finish', { baseColor: [0.7, 0.2, 0.1], metalness: 0.25 }],
    },
    ['noise.value > finish.roughness', 'finish.finish > result.finish'],
  )
  const width = 80
  const height = 50
  const seen = rasterize(kernels, tables.mesh, tables.parts.partOfTriangle, lineOf(camera, width, height), {
    first: 0,
    rows: height,
  })
  const of = (layers: Uint32Array[], sample = 0) =>
    new Painter({ width, first: 0, layers, sample }, tables.parts.partOfTriangle)

  it('runs the look once at every visible pixel, and puts each channel into its lane', () => {
    const painter = of([seen])
    const made = ready(tables, look)
    const { color, facing, relief, glow } = paint(painter, made)
    expect(made.evaluator.evaluated).toBe(painter.visible)
    expect(painter.visible).toBe([...seen].filter((w, i) => i % SEEN_WORDS === 0 && w).length)
    expect(painter.visibleIn.reduce((a, b) => a + b)).toBe(painter.visible)
    expect(glow).toBeUndefined()
    const roughness = new Set<number>()
    for (let i = 0; i < width * height; i++) {
      const word = seen[i * SEEN_WORDS]!
      if (!word) {
        expect([...color!.subarray(i * 4, i * 4 + 4), ...relief!.subarray(i * 4, i * 4 + 4)]).toEqual([
          0, 0, 0, 0, 0, 0, 0, 0,
        ])
        continue
      }
      ;[0.7, 0.2, 0.1, 0.25].forEach((x, k) => expect(color![i * 4 + k]).toBeCloseTo(x, 6))
      expect(relief![i * 4 + 3]).toBe(tables.parts.partOfTriangle[word - 1]! + 1)
      expect(relief![i * 4 + 1]).toBe(depthAt(seen, i))
      expect(relief![i * 4 + 2]).toBe(1)
      // Boxes have flat normals: one of six.
      expect([0, 1, 2].map(k => Math.abs(facing![i * 4 + k]!)).sort()).toEqual([0, 0, 1])
      roughness.add(facing![i * 4 + 3]!)
    }
    expect(roughness.size).toBeGreaterThan(300)
  })
  it('takes over what a coarse picture has, and evaluates the rest', () => {
    const made = ready(tables, look)
    const view = camera.clone()
    // The coarse pixel's middle is that of its first own pixel.
    view.setViewOffset(width, height, -0.5, height - (-0.5 + height), width, height)
    const coarseSeen = rasterize(
      kernels,
      tables.mesh,
      tables.parts.partOfTriangle,
      lineOf(view, width / 2, height / 2),
      {
        first: 0,
        rows: height / 2,
      },
    )
    const coarse = paint(
      new Painter({ width: width / 2, first: 0, layers: [coarseSeen], sample: 0 }, tables.parts.partOfTriangle),
      made,
    )
    const before = made.evaluator.evaluated
    const painter = of([seen])
    const finer = paint(painter, made, undefined, { step: 2, width: width / 2, first: 0, painted: coarse })
    // Both together run the look at hardly more points than are seen.
    expect(made.evaluator.evaluated).toBeLessThanOrEqual(painter.visible * 1.05)
    expect(made.evaluator.evaluated - before).toBeLessThan(painter.visible * 0.78)
    const direct = paint(painter, ready(tables, look))
    for (const name of ['color', 'facing', 'relief'] as const)
      expect(notSo(finer[name]!, (x, i) => Math.abs(x - direct[name]![i]!) < 2e-3)).toEqual([])
  })
  it('lets through as much as the opacity says, over many shifted pictures', () => {
    const clear = setParam(
      setParam(look, 'finish1', 'sets', ['baseColor', 'roughness', 'opacity']),
      'finish1',
      'opacity',
      0.25,
    )
    const made = ready(tables, clear)
    const opacity = made.lanes.findIndex((_, i) => i === made.pictures.indexOf('relief') * 4 + 2)
    const behind = rasterize(
      kernels,
      tables.mesh,
      tables.parts.partOfTriangle,
      lineOf(camera, width, height),
      { first: 0, rows: height },
      undefined,
      seen,
    )
    let front = 0
    let all = 0
    for (let sample = 0; sample < 16; sample++) {
      const { relief } = paint(of([seen, behind], sample), made, opacity)
      for (let i = 0; i < width * height; i++) {
        if (!seen[i * SEEN_WORDS]) continue
        all++
        if (relief![i * 4 + 1] === depthAt(seen, i)) front++
      }
    }
    expect(front / all).toBeCloseTo(0.25, 2)
  })
  it('marks every square of pixels that has something in it, with a pixel to spare', () => {
    const { marks, across, first } = of([seen]).tiles
    expect(first).toBe(0)
    for (let i = 0; i < width * height; i++)
      if (seen[i * SEEN_WORDS])
        expect(marks[Math.floor(i / width / 16) * across + Math.floor((i % width) / 16)]! & 1).toBe(1)
    expect([...marks].some(m => m === 0)).toBe(true)
  })
  it('knows the ground from the mesh', () => {
    const low = { ...lineOf(camera, width, height), ground: { y: -0.6, x: 2, z: 0, reach: 20 } }
    const withGround = rasterize(kernels, tables.mesh, tables.parts.partOfTriangle, low, { first: 0, rows: height })
    const painter = of([withGround])
    const made = ready(tables, look)
    const { relief } = paint(painter, made)
    const parts = new Set([...relief!].filter((_, i) => i % 4 === 3))
    expect(parts.has(GROUND_PART)).toBe(true)
    expect(made.evaluator.evaluated).toBe(painter.visible)
  })
  it('dithers evenly: the samples of a pixel divide the range', () => {
    fc.assert(
      fc.property(fc.nat(500), fc.nat(500), (x, y) => {
        const all = Array.from({ length: 16 }, (_, s) => ditherAt(x, y, s)).sort((a, b) => a - b)
        all.forEach((v, i) => {
          expect(v).toBeGreaterThanOrEqual(0)
          expect(v).toBeLessThan(1)
          if (i) expect(v - all[i - 1]!).toBeLessThan(0.13)
        })
      }),
    )
  })
})

describe('a program that runs again and again', () => {
  const tables = tablesOf(row(3))
  const look = kioskRoofMossLook()
  const points = samplePoints(tables.mesh, 600)
  const numbers = look.nodes.flatMap(n =>
    Object.entries(kindFor(n)?.params ?? {}).flatMap(([name, d]) =>
      d.type === 'number' && !n.recipe ? [{ node: n.id, name, d }] : [],
    ),
  )

  it('gives the same values as one that runs for the first time, whatever is dragged', () => {
    const lowered = lower(look, tables.mesh.maps)
    const roots = [...lowered.result.baseColor, ...lowered.result.roughness, ...lowered.result.height]
    const again = new RepeatedEvaluator(
      kernels,
      lowered,
      roots,
      tables,
      new Gatherer(kernels, lowered, tables, 'here', 512),
    )
    again.refresh(reader(look))
    const site: Site = { points }
    const columns = () => roots.map(() => new Float32Array(points.count))
    fc.assert(
      fc.property(
        fc.nat(numbers.length - 1),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (which, a, b) => {
          const { node, name, d } = numbers[which]!
          for (const share of [a, b]) {
            const next = setParam(look, node, name, d.min + (d.max - d.min) * share)
            again.refresh(reader(next))
            const mine = columns()
            again.evaluate(site, mine)
            const once = new RepeatedEvaluator(
              kernels,
              lowered,
              roots,
              tables,
              new Gatherer(kernels, lowered, tables, 'here', 512),
            )
            once.refresh(reader(next))
            const theirs = columns()
            once.evaluate({ points }, theirs)
            mine.forEach((c, k) => expect([...c]).toEqual([...theirs[k]!]))
          }
        },
      ),
      { numRuns: 25 },
    )
  })
  it('is cut at dear values that stay: a noise is kept while what follows it changes', () => {
    const chain = lookOf({ noise: ['noise', { size: 30 }], levels: ['levels'], finish: ['finish'] }, [
      'noise.value > levels.value',
      'levels.value > finish.roughness',
      'finish.finish > result.finish',
    ])
    const program = lower(chain, [])
    const roots = [...program.result.roughness]
    const sourcesOf = (node: string) =>
      new Set(program.code.flatMap((i, ref) => (i.op === 'param' && i.ref.node === node ? [ref] : [])))
    const kept = cut(program, roots, touchedBy(program, sourcesOf('levels1')))
    expect(kept.length).toBeGreaterThan(0)
    for (const ref of kept) expect(program.domains[ref]).toBe(SURFACE)
    const heavy = new Set(program.code.flatMap((i, ref) => (/noise|fractal/.test(i.op) ? [ref] : [])))
    const reaches = (ref: number): boolean =>
      heavy.has(ref) || ('args' in program.code[ref]! && (program.code[ref] as { args: number[] }).args.some(reaches))
    expect(kept.some(reaches)).toBe(true)
    // What is dragged is not kept, nor what follows it.
    expect(
      cut(program, roots, touchedBy(program, sourcesOf('noise1'))).some(ref =>
        touchedBy(program, sourcesOf('noise1')).has(ref),
      ),
    ).toBe(false)
  })

  it('where only one value can be kept, it is the dearest', () => {
    const look = lookOf({ noise: ['noise'], cells: ['cells'], finish: ['finish'] }, [
      'noise.value > finish.roughness',
      'cells.border > finish.metalness',
      'finish.finish > result.finish',
    ])
    const program = lower(look, [])
    const { roughness, metalness } = program.result
    const roots = [...roughness, ...metalness]
    expect(cut(program, roots, new Set())).toEqual(roots.toSorted((a, b) => a - b))
    expect(cut(program, roots, new Set(), 1)).toEqual(metalness)
    expect(cut(program, roots, new Set(metalness), 1)).not.toContain(metalness[0])
  })

  it('what changes again and again is known from the second time on, until something else changes', () => {
    const of = (size: number, gamma: number): Look =>
      lookOf(
        { noise1: ['noise', { size }], levels1: ['levels', { gamma }], finish: ['finish', {}], result: ['result', {}] },
        ['noise1.value > levels1.value', 'levels1.value > finish.roughness', 'finish.finish > result.finish'],
      )
    const program = lower(of(10, 1), [])
    const repetition = new Repetition(program)
    const nodesOf = (look: Look): string[] | undefined => {
      const sources = repetition.take(reader(look))
      return sources && [...sources].flatMap(ref => (i => (i.op === 'param' ? [i.ref.node] : []))(program.code[ref]!))
    }
    expect(nodesOf(of(10, 1))).toBeUndefined()
    expect(nodesOf(of(10, 1.2))).toBeUndefined()
    expect(nodesOf(of(10, 1.4))).toEqual(['levels1'])
    expect(nodesOf(of(10, 1.4))).toEqual(['levels1'])
    expect(nodesOf(of(12, 1.4))).toBeUndefined()
    expect(nodesOf(of(14, 1.4))).toEqual(['noise1'])
  })
})
