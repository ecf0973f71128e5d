/**
 * What may import what. Circles are out everywhere; each package and each folder in it imports downwards only.
 * Run by `npm run check` and with it by `npm test`.
 */

/** Folders of the server from the bottom up: each imports those before it, and itself. */
const SERVER = [
  ['errors'],
  ['files', 'crs'],
  ['imagery', 'store', 'sharing'],
  ['tasks'],
  ['incoming', 'jobs', 'queue'],
  ['runs'],
  ['passes'],
  ['operations', 'products', 'questions', 'client-view', 'report'],
  ['writing', 'run-sheets'],
  ['hand-over', 'site'],
  ['http'],
];
/** Folders of the web application, likewise. */
const WEB = [
  ['shared', 'api'],
  ['drawing'],
  ['state'],
  ['viewer'],
  ['tools', 'sheets'],
  ['stages'],
  ['workbench', 'jobs'],
];

/** One rule a layer: it imports nothing of the layers above it. */
function layered(root, layers) {
  return layers.slice(0, -1).map((names, level) => ({
    name: `${names.join('-')}-imports-nothing-above-it`,
    severity: 'error',
    from: { path: `^${root}/(${names.join('|')})/`, pathNot: '\\.test\\.ts$' },
    to: {
      path: `^${root}/(${layers
        .slice(level + 1)
        .flat()
        .join('|')})/`,
    },
  }));
}

export default {
  forbidden: [
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
    {
      name: 'core-imports-no-other-package',
      severity: 'error',
      from: { path: '^core/src' },
      to: { path: '^(contract|server|web|demo|bench)/' },
    },
    {
      name: 'contract-imports-the-core-alone',
      severity: 'error',
      from: { path: '^contract/src' },
      to: { path: '^(server|web|demo|bench)/' },
    },
    {
      name: 'web-and-server-meet-in-the-contract',
      severity: 'error',
      from: { path: '^(web|server)/src' },
      to: { path: '^(web|server)/src', pathNot: '^$1/src' },
    },
    {
      name: 'stages-know-nothing-of-each-other',
      severity: 'error',
      from: { path: '^web/src/app/stages/([^/]+)/', pathNot: '\\.test\\.ts$' },
      to: { path: '^web/src/app/stages/[^/]+/', pathNot: '^web/src/app/stages/$1/' },
    },
    ...layered('server/src', SERVER),
    ...layered('web/src/app', WEB),
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(node_modules|dist)/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    moduleSystems: ['es6'],
  },
};
