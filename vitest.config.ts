import { defineConfig } from 'vitest/config';

const resolve = { conditions: ['idrel-source'] };
const ssr = { resolve: { conditions: ['idrel-source'], externalConditions: ['idrel-source'] } };
// Who waits for something waits as long as the slowest machine needs: a test never fails on a clock.
const expect = { poll: { timeout: 300_000 } };
const project = (name: string, include: string[], more = {}) => ({
  resolve,
  ssr,
  test: { name, include, expect, ...more },
});

// Limits of time are there to end what hangs; they are far above what the slowest machine needs.
export default defineConfig({
  test: {
    projects: [
      project(
        'unit',
        [
          'core/src/**/*.test.ts',
          'contract/src/**/*.test.ts',
          'client/src/**/*.test.ts',
          'cli/src/**/*.test.ts',
          'readers/src/**/*.test.ts',
          'standins/src/**/*.test.ts',
          'demo/src/**/*.test.ts',
        ],
        // Nothing of ours is kept between files: grammars and engines are loaded once, not for each of them.
        { testTimeout: 120_000, hookTimeout: 120_000, isolate: false },
      ),
      // Their document and what is served differ from file to file.
      project('web', ['web/src/**/*.test.{ts,tsx}'], {
        testTimeout: 300_000,
        hookTimeout: 300_000,
        setupFiles: ['web/src/patience.ts'],
      }),
      // Each file makes a database of its own in the test cluster, so that files can run side by side.
      project('server', ['server/test/*.test.ts'], {
        maxWorkers: 2,
        isolate: false,
        testTimeout: 1_800_000,
        hookTimeout: 600_000,
      }),
      // These speak to the one running server of the set-up, one after the other.
      project('running', ['server/test/running/*.test.ts'], {
        fileParallelism: false,
        isolate: false,
        testTimeout: 1_800_000,
        hookTimeout: 600_000,
      }),
      project('browser', ['e2e/**/*.test.ts'], { fileParallelism: false, testTimeout: 900_000, hookTimeout: 900_000 }),
    ],
  },
});
