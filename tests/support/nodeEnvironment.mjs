/**
 * Jest's environment for Node gives tests their own typed arrays, and libraries that ask `instanceof` of what Node made do not know
 * them: tests get Node's.
 */
import { TestEnvironment } from 'jest-environment-node';

export default class extends TestEnvironment {
  constructor(config, context) {
    super(config, context);
    Object.assign(this.global, {
      Float32Array,
      Float64Array,
      Int8Array,
      Int16Array,
      Int32Array,
      Uint16Array,
      Uint32Array,
      Uint8ClampedArray,
      BigInt64Array,
      BigUint64Array,
      DataView,
    });
  }
}
