import unit from './jest.config.mjs';

/** Browser tests against the built server, one file at a time. @type {import('jest').Config} */
export default { ...unit, roots: ['<rootDir>/e2e'], globalSetup: '<rootDir>/tests/support/scratch.mjs', maxWorkers: 1 };
