/** Before the tests: the store's worker and the stand-ins as they run in the product, built once. */
import { buildServerSide } from '../../scripts/buildServerSide.mjs';
import makeScratch from './scratch.mjs';

export default async function setup() {
  makeScratch();
  await buildServerSide();
}
