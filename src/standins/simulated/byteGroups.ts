/** Moves the bytes of each group that the order names; what is longer is moved group by group. */
export function reorder(bytes: Buffer, order: string, isBack: boolean): Buffer {
  const out = Buffer.alloc(bytes.length);
  const width = order.length;
  for (let group = 0; group < bytes.length; group += width)
    for (let wire = 0; wire < width; wire++) {
      const plain = order.charCodeAt(wire) - 65;
      if (isBack) out[group + plain] = bytes[group + wire] ?? 0;
      else out[group + wire] = bytes[group + plain] ?? 0;
    }
  return out;
}
