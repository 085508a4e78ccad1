import { checkValues } from '../../core/evaluate/checks'
import { check } from '../../core/graph/check'
import { loadKernels } from '../../core/kernels/kernels'
import { command, wholeNumber, withMesh, type MeshOptions } from '../command'
import { namesOf, openLook, openMesh } from '../pieces'
import { FOUND_PROBLEMS } from '../usage'
import { voiceOf } from '../voice'
import { checkStore } from './backup'

type Options = Omit<MeshOptions, 'mesh'> & { mesh?: string; size: number }

export const checkCommand = () =>
  withMesh(
    command('check', {
      summary: 'what is wrong with a look, alone or on a mesh; without one, whether the database is sound',
      examples: [
        [
          'check moss.look.json --mesh roof.glb',
          'What the interface lists as checks; exit code 1 where it lists some.',
        ],
        ['check', 'Whether the database of the server here is sound.'],
      ],
    }),
    true,
  )
    .argument('[look]', 'a look file, or a database (.db)')
    .option('--size <number>', 'pixels of the pictures that are meant', wholeNumber('size', 16, 16384), 1024)
    .action(async (path: string | undefined, options: Options) => {
      const voice = voiceOf(options)
      if (!path || path.endsWith('.db')) {
        const { data, text } = await checkStore(path && `file:${path}`)
        voice.answer(data, () => text)
        if (data.length) process.exitCode = FOUND_PROBLEMS
        return
      }
      const open = await openLook(path)
      const { mesh } = options
      const found = mesh ? (await openMesh({ ...options, mesh }, voice, open)).piece : undefined
      const findings = check(open.look, found ? namesOf(found) : {})
      if (found) findings.push(...checkValues(await loadKernels(), found.tables, open.look, options.size))
      const lines = findings.map(f => `${f.severity}${f.node ? ` ${f.node}` : ''}: ${f.message}\n`)
      voice.answer(findings, () => lines.join('') || 'Nothing found.\n')
      if (findings.length) process.exitCode = FOUND_PROBLEMS
    })
