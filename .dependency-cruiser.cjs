/** The house rules on who may import whom; see CONTRIBUTING.md. */
const SRC = '^packages/[^/]+/src/';
const within = (name) => `^packages/${name}/`;

/** The folders of core and of service: each knows only those before it. */
const LAYERS = {
  core: [
    ...[
      'model',
      'time',
      'text',
      'formats',
      'address',
      'condition',
      'wording',
      'pattern',
      'site',
      'purchases',
    ],
    ...[
      'decision',
      'visit',
      'redirects',
      'explore',
      'reach',
      'grid',
      'landing',
      'probe',
      'visible',
    ],
    ...[
      'kinds',
      'everywhere',
      'guarantees',
      'comparison',
      'findings',
      'import',
      'queries',
      'public',
    ],
  ],
  service: [
    'settings',
    'store',
    'shops',
    'calls',
    'analysis',
    'sign-in',
    'gateway',
    'probe',
    'api',
  ],
};

module.exports = {
  forbidden: [
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, dependencyTypesNot: ['type-only'] },
    },
    {
      name: 'no-circles-of-folders',
      comment: 'A folder knows only folders below it; types count as well.',
      severity: 'error',
      scope: 'folder',
      from: { path: '^packages/(core|service|console)/src' },
      to: { circular: true },
    },
    ...Object.entries(LAYERS).flatMap(([name, folders]) => [
      ...folders.slice(0, -1).map((folder, i) => ({
        name: `${name}-${folder}-knows-only-folders-before-it`,
        severity: 'error',
        from: { path: `${within(name)}src/${folder}/` },
        to: { path: `${within(name)}src/(?:${folders.slice(i + 1).join('|')})/` },
      })),
      {
        name: `${name}-folder-without-a-layer`,
        comment: 'A new folder takes its place in LAYERS.',
        severity: 'error',
        from: { path: `${within(name)}src/(?!(?:${folders.join('|')})/)[^/]+/` },
        to: {},
      },
    ]),
    // Otherwise a folder and one inside it would know each other, which the rule above does not see.
    ...[
      '^(packages/(?:core|service)/src/)[^/]+/',
      '^(packages/(?:core|service)/src/.*/)[^/]+/',
    ].map((path) => ({
      name: 'no-import-from-the-folder-around',
      severity: 'error',
      from: { path },
      to: { path: '^$1[^/]+$' },
    })),
    {
      name: 'no-missing',
      severity: 'error',
      from: {},
      // The build makes what is called virtual; the types of the console say what it is.
      to: { couldNotResolve: true, pathNot: '^virtual:' },
    },
    {
      name: 'core-knows-no-other-package',
      severity: 'error',
      from: { path: `${within('core')}src/` },
      to: { path: '^packages/(api|client|probe|service|cli|console)/' },
    },
    {
      name: 'core-imports-only-what-reads-its-formats',
      severity: 'error',
      from: { path: `${within('core')}src/` },
      to: {
        dependencyTypes: ['npm', 'npm-dev', 'core'],
        pathNot:
          '(^|/)node_modules/(yup|yaml|csv-parse|csv-stringify|fast-xml-parser|fast-xml-builder|fast-xml-validator|re2js|refa|temporal-polyfill|@eslint-community/regexpp|unhomoglyph)/',
      },
    },
    {
      name: 'the-description-of-the-api-knows-the-types-of-core-alone',
      severity: 'error',
      from: { path: `${within('api')}src/` },
      to: { path: '^packages/(client|probe|service|cli|console)/' },
    },
    {
      name: 'probe-knows-core-alone',
      severity: 'error',
      from: { path: `${within('probe')}src/` },
      to: { path: '^packages/(api|client|service|cli|console)/' },
    },
    {
      name: 'client-knows-core-by-its-types',
      severity: 'error',
      from: { path: `${within('client')}src/` },
      to: { path: '^packages/(probe|service|cli|console)/' },
    },
    {
      name: 'client-and-console-import-only-types-of-core',
      severity: 'error',
      from: { path: '^packages/(api|client|console)/src/' },
      to: { path: within('core'), dependencyTypesNot: ['type-only'] },
    },
    {
      name: 'service-knows-core-and-the-description-of-its-api',
      severity: 'error',
      from: { path: `${within('service')}src/` },
      to: { path: '^packages/(client|cli|console)/' },
    },
    {
      name: 'console-does-not-know-service-or-cli',
      severity: 'error',
      from: { path: `${within('console')}src/` },
      to: { path: '^packages/(probe|service|cli)/' },
    },
    {
      name: 'only-the-store-has-sql',
      severity: 'error',
      from: { path: SRC, pathNot: '^packages/service/src/store/' },
      to: { path: '(^|/)node_modules/better-sqlite3/' },
    },
    {
      name: 'only-api-and-gateway-know-express',
      severity: 'error',
      from: { path: SRC, pathNot: '^packages/service/src/(api|gateway)/' },
      to: { path: '(^|/)node_modules/(express|helmet)/' },
    },
    {
      name: 'sources-do-not-import-tests',
      severity: 'error',
      from: { path: SRC },
      to: { path: '^packages/[^/]+/test/' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)dist/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.depcruise.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'types', 'default'],
      extensions: ['.ts', '.tsx', '.js', '.mjs', '.json'],
    },
  },
};
