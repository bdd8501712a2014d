import { defineConfig } from 'vitest/config';

const conditions = ['@zetopsis/source', 'node', 'development|production'];
const shared = { resolve: { conditions }, ssr: { resolve: { conditions } } };
const setupFiles = ['./vitest.setup.ts'];

export default defineConfig({
  test: {
    projects: [
      {
        ...shared,
        test: { name: 'unit', setupFiles, include: ['packages/*/src/**/*.test.ts', 'apps/standin/src/**/*.test.ts'] },
      },
      {
        ...shared,
        test: {
          name: 'server',
          include: ['apps/server/src/**/*.test.ts', 'apps/server/test/**/*.int.test.ts'],
          globalSetup: ['apps/server/test/global-setup.ts'],
          pool: 'forks',
          fileParallelism: false,
          testTimeout: 60_000,
          hookTimeout: 60_000,
        },
      },
      {
        resolve: { conditions: ['@zetopsis/source', 'module', 'browser', 'development|production'] },
        test: { name: 'web', setupFiles, include: ['apps/web/src/**/*.test.{ts,tsx}'], environment: 'happy-dom' },
      },
    ],
  },
});
