/** JSON compressed in one piece: a long answer that is compressed portion by portion is twice as long. */
import { promisify } from 'node:util';
import { brotliCompress, constants, gzip } from 'node:zlib';

export type Packing = 'br' | 'gzip';

/** Better than this costs more time than it saves on any network of a plant. */
const QUALITY = 5;

export function packedJson(value: unknown, packing: Packing): Promise<Uint8Array<ArrayBuffer>> {
  const text = Buffer.from(JSON.stringify(value));
  const packed =
    packing === 'gzip'
      ? promisify(gzip)(text)
      : promisify(brotliCompress)(text, { params: { [constants.BROTLI_PARAM_QUALITY]: QUALITY, [constants.BROTLI_PARAM_SIZE_HINT]: text.length } });
  return packed;
}
