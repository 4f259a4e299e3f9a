/** Imports point one way: pages, views -> server, ui -> core. */
export default {
  forbidden: [
    {
      name: 'core-imports-only-core',
      comment: 'core is values in, values out: it imports nothing of ours but core',
      severity: 'error',
      from: { path: '^src/core' },
      to: { path: '^src/(?!core)' },
    },
    {
      name: 'core-does-no-io',
      comment: 'no package or Node module that reaches disk, network, database, clock or screen',
      severity: 'error',
      from: { path: '^src/core' },
      to: {
        path: 'node_modules/(knex|mysql2|react|react-dom|astro|nodemailer|pino|prom-client|@node-rs)|^(node:)?(fs|net|http|https|child_process|crypto|os)$',
      },
    },
    {
      name: 'views-stay-in-the-browser',
      comment: 'what both sides need lives in core',
      severity: 'error',
      // The endpoints' types, by which calls are checked: nothing of theirs is in what is built.
      from: { path: '^src/(views|ui)/.*[.]tsx?$', pathNot: '^src/ui/endpoints[.]ts$' },
      to: { path: '^src/(server|demo|standins|pages)' },
    },
    {
      name: 'ui-knows-no-view',
      severity: 'error',
      from: { path: '^src/ui', pathNot: '^src/ui/endpoints[.]ts$' },
      to: { path: '^src/(views|pages)' },
    },
    {
      name: 'server-knows-no-screen',
      severity: 'error',
      from: { path: '^src/server' },
      to: { path: '^src/(views|ui|pages|standins|demo)' },
    },
    {
      name: 'sql-only-in-stores',
      comment: 'pages speak to services, never to the database',
      severity: 'error',
      from: { path: '^src/(pages|views|ui)' },
      to: { path: 'node_modules/(knex|mysql2)|/store[.]ts$' },
    },
    {
      name: 'standins-play-the-outside',
      comment: 'the stand-ins know nothing of the application',
      severity: 'error',
      from: { path: '^src/standins' },
      to: { path: '^src/(server|views|pages|ui|demo)' },
    },
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true } },
    { name: 'resolvable', severity: 'error', from: {}, to: { couldNotResolve: true, pathNot: '^astro:' } },
  ],
  options: {
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '^(dist|[.]astro|[.]clear-bell)' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default', 'types'],
    },
  },
};
