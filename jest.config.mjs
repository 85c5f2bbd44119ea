const swc = {
  jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx: true }, transform: { react: { runtime: 'automatic' } } },
  module: { type: 'es6' },
};

/** Unit tests: everything but the browser. @type {import('jest').Config} */
export default {
  rootDir: '.',
  roots: ['<rootDir>/tests'],
  testEnvironment: '<rootDir>/tests/support/nodeEnvironment.mjs',
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: { '^.+\\.tsx?$': ['@swc/jest', swc] },
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1', '^hexy$': '<rootDir>/tests/support/hexDump.cjs' },
  globalSetup: '<rootDir>/tests/support/buildWorkers.mjs',
  globalTeardown: '<rootDir>/tests/support/removeScratch.mjs',
  setupFilesAfterEnv: ['<rootDir>/tests/support/knowsUnits.ts'],
  testTimeout: 120000,
  // Most of the time goes into waiting for devices; by itself Jest would take one process of a machine with two cores.
  maxWorkers: 2,
};
