/** Arrows between packages point one way (docs/design.md). @type {import('dependency-cruiser').IConfiguration} */
module.exports = {
  forbidden: [
    { name: 'no-circular', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: '^packages/core/src', pathNot: '\\.test\\.ts$' },
      to: { pathNot: '^packages/core/src' },
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
      from: { path: '^apps/server/src/([^/]+)/' },
      to: { path: '^apps/server/src/[^/]+/.*\\.store\\.ts$', pathNot: '^apps/server/src/$1/' },
    },
    { name: 'not-to-unresolvable', severity: 'error', from: {}, to: { couldNotResolve: true } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '/dist' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.depcruise.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['@zetopsis/source', 'import', 'node', 'default', 'types'],
      extensions: ['.ts', '.tsx', '.js', '.mjs'],
    },
  },
};
