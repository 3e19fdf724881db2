/** Tests are TypeScript; the transform only strips types, and `tsc -p tsconfig.jest.json` checks them. */
const stripped = (tsx) => [
  '@swc/jest',
  {
    jsc: {
      parser: { syntax: 'typescript', tsx },
      target: 'es2023',
      transform: { react: { runtime: 'automatic' } },
    },
    module: { type: 'es6' },
  },
];

export default {
  testMatch: [
    '<rootDir>/packages/*/test/**/*.test.ts',
    // Components of the console, in jsdom.
    '<rootDir>/packages/console/test/**/*.test.tsx',
    '<rootDir>/scripts/test/**/*.test.ts',
  ],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: { '\\.ts$': stripped(false), '\\.tsx$': stripped(true) },
  moduleNameMapper: { '\\.module\\.css$': 'identity-obj-proxy' },
  modulePathIgnorePatterns: ['<rootDir>/.*/dist/'],
  testTimeout: 60_000,
  // More than two cores have: where a test awaits a service or a browser, another can work.
  maxWorkers: 3,
};
