/** Tests are TypeScript; the transform only strips types, and `npm run types` checks them. */
export default {
  testMatch: ['<rootDir>/packages/*/test/**/*.test.ts', '<rootDir>/scripts/test/**/*.test.ts'],
  extensionsToTreatAsEsm: ['.ts'],
  transform: { '^.+\\.ts$': ['ts-jest', { useESM: true, tsconfig: 'tsconfig.jest.json' }] },
  modulePathIgnorePatterns: ['<rootDir>/.*/dist/'],
  testTimeout: 60_000,
  // The browser and several services run beside the tests.
  maxWorkers: 2,
};
