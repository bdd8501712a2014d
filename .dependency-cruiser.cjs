/** Storeys of the server, from the top: what tells people, what answers them, what comes in, what is kept, what all stand on. */
const STOREYS = ['telling', 'asking', 'inflow', 'keeping', 'ground'];

/** Arrows between packages point one way (docs/design.md). @type {import('dependency-cruiser').IConfiguration} */
module.exports = {
  forbidden: [
    { name: 'no-circular', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: '^packages/core/src', pathNot: '\\.test\\.ts$' },
      // calendars of zones, and patterns in linear time: computation without I/O
      to: { pathNot: '^packages/core/src|/node_modules/(luxon|re2js)/|^node_modules/(luxon|re2js)/' },
    },
    {
      name: 'answers-are-pure',
      comment: 'what is known becomes what is shown: no database, no network, no clock; croner reads schedules',
      severity: 'error',
      from: { path: '^packages/answers/src' },
      to: { pathNot: '^packages/(answers|core|contract)/src|/node_modules/croner/' },
    },
    { name: 'contract-only-core', severity: 'error', from: { path: '^packages/contract/src' }, to: { path: '^apps/' } },
    { name: 'web-not-server', severity: 'error', from: { path: '^apps/web' }, to: { path: '^apps/(server|standin)' } },
    {
      name: 'server-not-others',
      severity: 'error',
      from: { path: '^apps/server/src' },
      to: { path: '^apps/(web|standin)' },
    },
    {
      name: 'standin-shares-nothing',
      severity: 'error',
      from: { path: '^apps/standin' },
      to: { path: '^(apps/(web|server)|packages)/' },
    },
    {
      name: 'stores-stay-home',
      comment: "a capability never reaches into another's store",
      severity: 'error',
      from: { path: '^apps/server/src/([^/]+/[^/]+)/' },
      to: { path: '^apps/server/src/[^/]+/[^/]+/.*\\.store\\.ts$', pathNot: '^apps/server/src/$1/' },
    },
    ...STOREYS.map((storey, i) => ({
      name: `below-${storey}`,
      comment: 'storeys of the server: arrows point downwards only (docs/design.md)',
      severity: 'error',
      from: { path: `^apps/server/src/${storey}/` },
      to: { path: `^apps/server/src/(${['running', ...STOREYS.slice(0, i)].join('|')}|[^/]+\\.ts$)` },
    })),
    {
      name: 'no-circles-between-folders',
      severity: 'error',
      scope: 'folder',
      from: { path: '^(packages|apps)/' },
      to: { circular: true },
    },
    { name: 'not-to-unresolvable', severity: 'error', from: {}, to: { couldNotResolve: true } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    // a test may look from anywhere
    exclude: { path: '/dist|\\.test\\.tsx?$' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.depcruise.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['@zetopsis/source', 'import', 'node', 'default', 'types'],
      extensions: ['.ts', '.tsx', '.js', '.mjs'],
    },
  },
};
