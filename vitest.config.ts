import { defineConfig } from 'vitest/config';
import { BaseSequencer, type TestSpecification } from 'vitest/node';

const conditions = ['@zetopsis/source', 'node', 'development|production'];
const shared = { resolve: { conditions }, ssr: { resolve: { conditions } } };
const setupFiles = ['./vitest.setup.ts'];

/** Tests of the server wait more than they work: with two cores, five at a time leave none idle. */
const AT_ONCE = 5;
/** What the server imports of the packages and of the stand-in is what was built of them: it need not be read anew by each worker. */
const builtConditions = ['node', 'development|production'];
const built = { resolve: { conditions: builtConditions }, ssr: { resolve: { conditions: builtConditions } } };
const server = {
  server: { deps: { external: [/\/dist\//] } },
  globalSetup: ['apps/server/test/global-setup.ts'],
  pool: 'forks' as const,
  isolate: false,
  // a wait that ends well costs nothing: room for machines that are held up
  testTimeout: 300_000,
  hookTimeout: 300_000,
};
const serverTests = (...names: string[]) => names.map((name) => `apps/server/test/${name}.int.test.ts`);
/** What works rather than waits: fewer at a time leave each other room. */
const BUSY = serverTests('attack', 'connecting', 'crashRecords', 'looked', 'names', 'outage', 'reading');
/** What is compared with what truly was at a moment: nothing runs beside these two. */
const TIMED = serverTests('truth', 'usage');
/** Those that wait most stand between those that work. */
const LONG = serverTests(
  'links',
  'wires',
  'upgrade',
  'crash',
  'sources',
  'crashTelling',
  'ruleKinds',
  'following',
  'ages',
  'access',
  'rules',
  'ruleMore',
  'measures',
  'find',
  'crashRecords',
  'connecting',
  'names',
);
/** What takes long begins first, so that nothing is left alone at the end; what only works fills the gaps of what waits. */
class LongestFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const place = ({ moduleId, project }: TestSpecification) => {
      const at = LONG.findIndex((file) => moduleId.endsWith(file));
      return at >= 0 ? at : LONG.length + (project.name.startsWith('server') ? 0 : 1);
    };
    return (await super.sort(files)).sort((a, b) => place(a) - place(b));
  }
}

export default defineConfig({
  test: {
    sequence: { sequencer: LongestFirst },
    projects: [
      {
        ...shared,
        test: {
          name: 'unit',
          isolate: false,
          testTimeout: 60_000,
          maxWorkers: AT_ONCE,
          setupFiles,
          include: ['packages/*/src/**/*.test.ts', 'apps/standin/src/**/*.test.ts'],
        },
      },
      {
        ...built,
        test: {
          ...server,
          name: 'server',
          include: ['apps/server/src/**/*.test.ts', 'apps/server/test/**/*.int.test.ts'],
          exclude: [...BUSY, ...TIMED],
          // what a file needs is made anew by itself, only modules are shared
          maxWorkers: AT_ONCE,
        },
      },
      {
        ...built,
        test: { ...server, name: 'server, busy', include: BUSY, maxWorkers: 2, sequence: { groupOrder: 1 } },
      },
      {
        ...built,
        test: { ...server, name: 'server, timed', include: TIMED, maxWorkers: 2, sequence: { groupOrder: 2 } },
      },
      {
        resolve: { conditions: ['@zetopsis/source', 'module', 'browser', 'development|production'] },
        test: {
          name: 'web',
          isolate: false,
          testTimeout: 60_000,
          maxWorkers: AT_ONCE,
          setupFiles: [...setupFiles, './apps/web/vitest.setup.ts'],
          include: ['apps/web/src/**/*.test.{ts,tsx}'],
          environment: 'happy-dom',
        },
      },
    ],
  },
});
