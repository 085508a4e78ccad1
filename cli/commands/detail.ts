import { basename, join } from 'node:path'
import { curvatureOfNormals } from '../../core/dense/curvature'
import { greenOf, normalsOfPictures } from '../../core/dense/normalPicture'
import { MATCHES, partedDense, type MatchBy } from '../../core/dense/partners'
import { DETAIL_KINDS, takeDetail, type DetailKind, type TakeSettings } from '../../core/dense/take'
import { apart, otherUnits } from '../../core/dense/units'
import { exrPicture } from '../../core/exchange/readExr'
import type { Picture } from '../../core/evaluate/pictures'
import type { Workpiece } from '../../core/evaluate/workpiece'
import { loadKernels } from '../../core/kernels/kernels'
import { boundsOf, diagonalOf, type Mesh } from '../../core/mesh/mesh'
import { compressor, tangents } from '../../node/bake/compress'
import { readNormals } from '../../node/bake/readPicture'
import { command, withPreparation, type MeshOptions } from '../command'
import { file, write } from '../files'
import { meshFile } from '../meshFiles'
import { openPiece } from '../pieces'
import { UsageError } from '../usage'
import { voiceOf, type Voice } from '../voice'

interface DetailOptions extends Omit<MeshOptions, 'mesh' | 'cache'> {
  dense?: string
  normal?: string
  green?: string
  out: string
  take: string
  size: string
  match: string
  outward?: string
  inward?: string
  cageMap?: string
  scale: string
  curvature?: string
}

/** Share of the texels beyond which missing the dense mesh is a problem. */
const MANY = 0.02

export const detailCommand = () =>
  withPreparation(
    command('detail', {
      summary: 'normals, height and maps of a dense mesh, or a picture of normals, on the UVs of a light mesh',
      examples: [
        [
          'detail winch.glb --dense winch-high.glb --out detail',
          'Normal and height, within a hundredth of the diagonal.',
        ],
        ['detail winch.glb --dense scan.ply --take normal,convexity,COLOR_0 --match near --out detail', 'More of it.'],
        ['detail winch.glb --normal winch-normal.png --out detail', 'For "Normals" of a look\'s result.'],
      ],
    }),
  )
    .argument('<mesh>', 'the light mesh, with UVs')
    .requiredOption('--out <folder>', 'where the pictures go')
    .option('--dense <file>', 'the dense mesh; its pictures are dense NAME.exr')
    .option('--take <names>', `some of ${DETAIL_KINDS.join(', ')}, or vertex maps of the dense mesh`, 'normal,height')
    .option('--size <n>', 'texels along each side of a tile', '1024')
    .option('--match <how>', `which detail a part may have: ${MATCHES.join(', ')}`, 'part')
    .option('--outward <millimeters>', 'how far outside of the surface rays begin')
    .option('--inward <millimeters>', 'how far inside of it they end')
    .option('--cage-map <name>', 'a vertex map of the light mesh, 0 to 1, that both are multiplied by')
    .option('--scale <factor>', 'from the units of the dense mesh to those of the light one', '1')
    .option('--normal <picture>', 'a PNG of normals in tangent space, turned into normals of the mesh')
    .option('--green <way>', 'which way green grows in it: up or down; told by its slopes where it is left out')
    .option('--curvature <millimeters>', 'convexity and concavity of that size from the normals, as pictures too')
    .action(async (mesh: string, options: DetailOptions) => {
      const voice = voiceOf(options)
      if (!options.dense && !options.normal)
        throw new UsageError('Say what detail comes from: --dense MESH, --normal PICTURE, or both.')
      const { piece } = await openPiece({ ...options, mesh }, voice)
      if (!piece.mesh.uvs) throw new UsageError(`${mesh}: it has no UVs; "ubblet unwrap" makes some.`)
      const turned = options.normal ? await turnNormals(piece, options.normal, options, voice) : []
      const taken = options.dense ? await takeDense(piece, options.dense, options, voice) : undefined
      const files = [...turned, ...(taken?.files ?? [])]
      voice.answer({ ...taken, files }, () => [...files, ...(taken ? inWords(taken) : []), ''].join('\n'))
      if (taken && taken.missed > taken.texels * MANY) process.exitCode = 1
    })

/** What was taken of a dense mesh, in figures. */
interface TakenReport {
  files: string[]
  texels: number
  missed: number
  wrong: number
  alone: string[]
  leftOver: number
}

function inWords({ texels, missed, wrong, alone }: TakenReport): string[] {
  const met = ((100 * (texels - missed)) / Math.max(1, texels)).toFixed(1)
  return [
    `${met} % of ${texels} texels met the dense mesh`,
    ...(wrong ? [`note: ${wrong} texels met what belongs to another part`] : []),
    ...(alone.length ? [`note: without a partner: ${alone.slice(0, 8).join(', ')}`] : []),
  ]
}

const plainName = (name: string): string => name.replace(/[^\p{L}\p{N} _-]/gu, '')

async function takeDense(piece: Workpiece, path: string, options: DetailOptions, voice: Voice): Promise<TakenReport> {
  const { mesh: read } = await meshFile(path)
  const scale = Number(options.scale)
  if (!(scale > 0)) throw new UsageError(`--scale is a factor, not "${options.scale}".`)
  const fine = partedDense(read, scale)
  const { mesh: dense } = fine
  tellPlace(piece.mesh, dense, scale, path, voice)
  const settings = settingsOf(options, piece.mesh, dense)
  const { texels } = await loadKernels()
  const light = { mesh: piece.mesh, parts: piece.parts }
  const taken = takeDetail(texels, light, fine, settings, compressor, (share, what) => voice.progress(share, what))
  const files: string[] = []
  for (const { of, bytes } of taken.pictures) {
    const target = join(options.out, `dense ${plainName(of)}.exr`)
    await write(target, bytes)
    files.push(target)
  }
  const sum = (list: Uint32Array): number => list.reduce((a, b) => a + b, 0)
  return {
    files,
    texels: sum(taken.found.texels),
    missed: sum(taken.found.missed),
    wrong: sum(taken.found.wrong),
    alone: taken.alone.map(i => piece.parts.parts[i]!.name),
    leftOver: taken.leftOver,
  }
}

/** Says so where a dense mesh is in other units, or elsewhere in space. */
function tellPlace(light: Mesh, dense: Mesh, scale: number, path: string, voice: Voice): void {
  const box = boundsOf(dense.positions, dense.indices)
  const units = otherUnits(box, diagonalOf(light))
  const fits = units?.factor ? `; --scale ${Number((scale * units.factor).toPrecision(4))} would fit` : ''
  if (units) voice.note(`note: ${path} is ${Number(units.ratio.toPrecision(3))} times as large as the mesh${fits}`)
  else if (apart(box, boundsOf(light.positions, light.indices), diagonalOf(light)))
    voice.note(`note: ${path} lies elsewhere in space, so rays do not meet it; export both from the same place`)
}

/** @returns the files that were written */
async function turnNormals(piece: Workpiece, path: string, options: DetailOptions, voice: Voice): Promise<string[]> {
  const { mesh } = piece
  const { green } = options
  if (green !== undefined && green !== 'up' && green !== 'down')
    throw new UsageError(`--green is up or down, not "${green}".`)
  let picture: Picture
  const bytes = await file(path)
  try {
    picture = readNormals(basename(path), bytes)
  } catch {
    throw new UsageError(`${path}: this is not a PNG picture that can be read.`)
  }
  const found = green ?? greenOf(picture)
  if (!found)
    voice.note(`${path} does not tell which way green grows; it is taken to grow up (--green down otherwise).`)
  const { texels } = await loadKernels()
  const source = { picture, green: found ?? ('up' as const) }
  const made = normalsOfPictures(texels, mesh, [source], sizeOf(options), tangents, compressor)
  const stem = `${plainName(basename(path).replace(/\.[^.]*$/, ''))} on the mesh`
  const files: [string, Uint8Array][] = [[stem, made]]
  if (options.curvature !== undefined) {
    const radius = Number(options.curvature) / 1000
    if (!(radius > 0)) throw new UsageError(`--curvature is a length in millimeters, not "${options.curvature}".`)
    const found = curvatureOfNormals(texels, piece, exrPicture(stem, made), radius, compressor)
    files.push([`${stem} convexity`, found.convexity], [`${stem} concavity`, found.concavity])
  }
  for (const [name, bytes] of files) await write(join(options.out, `${name}.exr`), bytes)
  return files.map(([name]) => join(options.out, `${name}.exr`))
}

/** @throws UsageError where it is no size */
function sizeOf(options: DetailOptions): number {
  const size = Number(options.size)
  if (!Number.isInteger(size) || size < 16 || size > 8192)
    throw new UsageError('--size is a whole number from 16 to 8192.')
  return size
}

/** @throws UsageError for what there is not */
function settingsOf(options: DetailOptions, light: Mesh, dense: Mesh): TakeSettings {
  const names = options.take
    .split(',')
    .map(n => n.trim())
    .filter(Boolean)
  const isKind = (name: string): name is DetailKind => (DETAIL_KINDS as readonly string[]).includes(name)
  const vertexMaps = names.filter(n => !isKind(n))
  const unknown = vertexMaps.find(n => !dense.maps.some(m => m.name === n))
  if (unknown)
    throw new UsageError(
      `There is no "${unknown}" to take; there are ${[...DETAIL_KINDS, ...dense.maps.map(m => m.name)].join(', ')}.`,
    )
  const match = MATCHES.find((m): m is MatchBy => m === options.match)
  if (!match) throw new UsageError(`--match is ${MATCHES.join(', ')}, not "${options.match}".`)
  const { cageMap } = options
  if (cageMap !== undefined && !light.maps.some(m => m.name === cageMap && m.components === 1))
    throw new UsageError(`--cage-map names a vertex map of one number; the mesh has none called "${cageMap}".`)
  const size = sizeOf(options)
  const distance = (text: string | undefined, option: string): number => {
    if (text === undefined) return diagonalOf(light) / 100
    const millimeters = Number(text)
    if (!(millimeters >= 0)) throw new UsageError(`${option} is a length in millimeters, not "${text}".`)
    return millimeters / 1000
  }
  return {
    match,
    size,
    kinds: names.filter(isKind),
    vertexMaps,
    outward: distance(options.outward, '--outward'),
    inward: distance(options.inward, '--inward'),
    ...(cageMap !== undefined && { cageMap }),
    dilation: size >> 6,
  }
}
