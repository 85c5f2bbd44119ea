export { teardown as default } from './scratch.mjs';
