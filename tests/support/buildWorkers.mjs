/** Before the tests: the store's worker and the stand-ins as they run in the product, built once. */
import { buildServerSide } from '../../scripts/buildServerSide.mjs';

export default async function setup() {
  await buildServerSide();
}
