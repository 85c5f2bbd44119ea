/** What a device says of itself: the Identity object, and the answer to ListIdentity (CIP volume 1, 5-2; volume 2, 2-4.2). */
import { fail, ok, type Result } from '../result.ts';
import { hexOf, textAt, viewOf } from './bytes.ts';
import { ITEM, itemsIn } from './encapsulation.ts';

export interface Identity {
  readonly vendor: number;
  readonly deviceType: number;
  readonly productCode: number;
  /** `32.11` */
  readonly revision: string;
  /** Eight hexadecimal digits. */
  readonly serial: string;
  readonly product: string;
}

/** Attributes 1 to 7 of the Identity object, as Get_Attributes_All gives them. */
export function readIdentity(data: Uint8Array): Result<Identity> {
  if (data.length < 15) return fail('short', 'the identity is cut');
  const view = viewOf(data);
  const length = data[14] ?? 0;
  if (data.length < 15 + length) return fail('short', 'the name of the product is cut');
  return ok({
    vendor: view.getUint16(0, true),
    deviceType: view.getUint16(2, true),
    productCode: view.getUint16(4, true),
    revision: `${data[6]}.${String(data[7]).padStart(3, '0')}`,
    serial: hexOf(view.getUint32(10, true), 8).slice(0, -1),
    product: textAt(data, 15, length),
  });
}

/** The TCP port that a reply to ListIdentity names, in its socket address, most significant byte first; null where it names none. */
export function portIn(data: Uint8Array): number | null {
  const items = itemsIn(data, 0);
  const item = items.ok ? items.value.find(({ type }) => type === ITEM.identity) : undefined;
  const port = item && item.data.length >= 6 ? viewOf(item.data).getUint16(4) : 0;
  return port === 0 ? null : port;
}

/** The identity in the data of a reply to ListIdentity: version and socket address (18 bytes) stand before it. */
export function identityIn(data: Uint8Array): Result<Identity> {
  const items = itemsIn(data, 0);
  if (!items.ok) return items;
  const item = items.value.find(({ type }) => type === ITEM.identity);
  return item && item.data.length > 18 ? readIdentity(item.data.subarray(18)) : fail('items', 'no identity is in it');
}
