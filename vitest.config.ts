import { availableParallelism } from 'node:os'
import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'
import { BaseSequencer, type TestSpecification } from 'vitest/node'

/** Files that take longest, in their order: begun last, one of them would be waited for alone. */
const LONGEST = ['strangers', 'keeping', 'commands', 'cli', 'dense', 'standard', 'documents', 'looks']

class LongestFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const rank = ({ moduleId }: TestSpecification): number => {
      const at = LONGEST.findIndex(name => moduleId.endsWith(`/${name}.test.ts`))
      return at < 0 ? LONGEST.length : at
    }
    return (await super.sort(files)).sort((a, b) => rank(a) - rank(b))
  }
}

export default defineConfig({
  resolve: {
    alias: {
      '#core': fileURLToPath(new URL('./core', import.meta.url)),
      '#demo': fileURLToPath(new URL('./demo', import.meta.url)),
    },
  },
  test: {
    projects: [
      // Modules are read once for all files of a worker: none of them keeps anything that another one could mistake.
      {
        extends: true,
        test: { name: 'unit', include: ['tests/unit/*.test.ts'], isolate: false },
      },
      // These clear up after each test of whichever file reads their helpers first, so each file reads them itself.
      {
        extends: true,
        test: { name: 'server', include: ['tests/{server,unit/server}/*.test.ts'] },
      },
    ],
    // The built command line runs as it is.
    server: { deps: { external: [/\/dist\//] } },
    testTimeout: 60_000,
    hookTimeout: 60_000,
    sequence: { sequencer: LongestFirst },
    // All cores: while one file waits for commands and servers, another computes.
    maxWorkers: availableParallelism(),
  },
})
