/** Tests are TypeScript; the transform only strips types, and `npm run types` checks them. */
export default {
  testMatch: [
    '<rootDir>/packages/*/test/**/*.test.ts',
    // Components of the console, in jsdom.
    '<rootDir>/packages/console/test/**/*.test.tsx',
    '<rootDir>/scripts/test/**/*.test.ts',
  ],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: { '^.+\\.tsx?$': ['ts-jest', { useESM: true, tsconfig: 'tsconfig.jest.json' }] },
  moduleNameMapper: { '\\.module\\.css$': 'identity-obj-proxy' },
  modulePathIgnorePatterns: ['<rootDir>/.*/dist/'],
  testTimeout: 60_000,
  // More than two cores have: where a test awaits a service or a browser, another can work.
  maxWorkers: 3,
};
