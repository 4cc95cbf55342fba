import { defineConfig } from 'vitest/config';

const resolve = { conditions: ['idrel-source'] };
const ssr = { resolve: { conditions: ['idrel-source'], externalConditions: ['idrel-source'] } };
const project = (name: string, include: string[], more = {}) => ({ resolve, ssr, test: { name, include, ...more } });

export default defineConfig({
  test: {
    projects: [
      project('unit', ['core/src/**/*.test.ts', 'contract/src/**/*.test.ts', 'web/src/**/*.test.ts', 'cli/src/**/*.test.ts', 'readers/src/**/*.test.ts', 'demo/src/**/*.test.ts']),
      // The server's tests share one cluster: each file makes a database of its own in it.
      project('server', ['server/**/*.test.ts'], { fileParallelism: false, testTimeout: 60_000, hookTimeout: 120_000 }),
      project('browser', ['e2e/**/*.test.ts'], { fileParallelism: false, testTimeout: 240_000, hookTimeout: 240_000 }),
    ],
  },
});
