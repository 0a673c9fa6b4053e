// The house: web → contract, core; server → contract, core; contract → core; core → nothing of ours.
const inside = (layers) => `^(${layers})/`
const layer = (name, from, not) => ({
  name,
  severity: 'error',
  from: { path: inside(from) },
  to: { path: inside(not) },
})

module.exports = {
  forbidden: [
    layer('core-knows-nobody', 'core', 'contract|server|web|standins|demo|e2e|scripts'),
    layer('contract-knows-core', 'contract', 'server|web|standins|demo|e2e|scripts'),
    layer('web-knows-contract-and-core', 'web', 'server|standins|demo|e2e|scripts'),
    layer('standins-stand-alone', 'standins', 'core|contract|server|web|demo|e2e|scripts'),
    {
      name: 'server-knows-contract-and-core',
      severity: 'error',
      from: { path: '^server/', pathNot: '^server/(testing/|.*\\.test\\.ts$)' },
      to: { path: '^(web|standins|demo|e2e|scripts)/' },
    },
    {
      name: 'domains-talk-through-their-index',
      severity: 'error',
      from: { path: '^server/([^/]+)/', pathNot: '^server/testing/' },
      to: {
        path: '^server/([^/]+)/',
        pathNot: [
          '^server/$1/',
          '^server/[^/]+/index\\.ts$',
          '^server/(platform|testing)/',
          '^server/app\\.ts$',
        ],
      },
    },
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: {
        dependencyTypes: ['core', 'npm'],
        pathNot: 'node_modules/(ical\\.js|temporal-polyfill|windows-iana|yjs|lib0|fractional-indexing)/',
      },
    },
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true } },
    { name: 'nothing-unresolved', severity: 'error', from: {}, to: { couldNotResolve: true } },
  ],
  options: {
    parser: 'swc',
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(dist|node_modules/\\.vite)/' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default', 'types'],
      extensions: ['.ts', '.tsx', '.mjs', '.js', '.d.mts'],
    },
  },
}
