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
    include: ['tests/unit/**/*.test.ts', 'tests/server/**/*.test.ts'],
    // The built command line runs as it is.
    server: { deps: { external: [/\/dist\//] } },
    testTimeout: 60_000,
    sequence: { sequencer: LongestFirst },
    // All cores: while one file waits for commands and servers, another computes.
    maxWorkers: availableParallelism(),
  },
})
