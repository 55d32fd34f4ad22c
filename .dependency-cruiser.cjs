/** Imports go down only. Within the core, a folder may use those before it in this list. */
const ORDER = [
  'syntax',
  'netconf',
  'model',
  'state',
  'headers',
  'dialects',
  'snapshot',
  'analysis',
  'compare',
  'rules',
  'checks',
  'estate',
  'forwarding',
  'query',
  'benchmarks',
  'remediation',
  'references',
  'audit',
  'authoring',
  'exchange',
  'report',
]

module.exports = {
  forbidden: [
    ...ORDER.slice(0, -1).map((folder, i) => ({
      name: `core-${folder}-looks-down`,
      severity: 'error',
      from: { path: `^packages/core/src/${folder}/` },
      to: { path: `^packages/core/src/(${ORDER.slice(i + 1).join('|')})/` },
    })),
    {
      name: 'core-knows-no-shell',
      severity: 'error',
      from: { path: '^packages/core/src' },
      to: { path: '^packages/(api|server|web|cli|content|simulator|collector)/' },
    },
    {
      name: 'contract-knows-the-core-alone',
      severity: 'error',
      from: { path: '^packages/api/src' },
      to: { path: '^packages/(server|web|cli|content|simulator|collector)/' },
    },
    {
      name: 'core-does-no-io',
      severity: 'error',
      from: { path: '^packages/core/src' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'shells-do-not-meet',
      severity: 'error',
      from: { path: '^packages/(server|web|cli)/src' },
      to: { path: '^packages/(server|web|cli)/src', pathNot: '^packages/$1/src' },
    },
    {
      name: 'talkers-know-no-shell',
      severity: 'error',
      from: { path: '^packages/(collector|simulator)/src' },
      to: { path: '^packages/(server|web|cli)/' },
    },
    {
      name: 'services-know-no-routes',
      severity: 'error',
      from: { path: '^packages/server/src', pathNot: '^packages/server/src/routes\\.ts$' },
      to: { path: '^packages/server/src/.+routes\\.ts$', pathNot: '^packages/server/src/routes\\.ts$' },
    },
    {
      // A capability names what it needs; only what starts the server and answers requests has all of it.
      name: 'no-capability-takes-everything',
      severity: 'error',
      from: { path: '^packages/server/src', pathNot: ['routes\\.ts$', '/(server|demo)\\.ts$', '/http/'] },
      to: { path: '^packages/server/src/services\\.ts$' },
    },
    {
      name: 'client-and-stand-in-apart',
      severity: 'error',
      from: { path: '^packages/(collector|simulator)/src' },
      to: { path: '^packages/(collector|simulator)/src', pathNot: '^packages/$1/src' },
    },
    {
      name: 'core-has-no-circles-of-types-either',
      severity: 'error',
      from: { path: '^packages/core/src' },
      to: { circular: true },
    },
    {
      name: 'no-circles',
      severity: 'error',
      from: { path: '^packages/' },
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'default'],
      extensions: ['.ts', '.vue', '.js'],
    },
  },
}
