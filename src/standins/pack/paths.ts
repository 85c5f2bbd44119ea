/** Where the path of a message leads: an object, or a tag by its steps. */
export interface ObjectPath {
  readonly scope: string;
  readonly classId: number;
  readonly instance: number;
}

/** A class and an instance, after the name of a program perhaps. */
export function objectIn(path: Buffer): ObjectPath | null {
  let at = 0;
  let scope = '';
  if (path[0] === 0x91 && path.subarray(2, 10).toString('latin1').toLowerCase() === 'program:') {
    const length = path[1] ?? 0;
    scope = path.subarray(2, 2 + length).toString('latin1');
    at = 2 + length + (length % 2);
  }
  if (path[at] !== 0x20) return null;
  const kind = path[at + 2];
  const instance = kind === 0x24 ? (path[at + 3] ?? 0) : kind === 0x25 ? path.readUInt16LE(at + 4) : kind === 0x26 ? path.readUInt32LE(at + 4) : 0;
  return { scope, classId: path[at + 1] ?? 0, instance };
}

export function stepsIn(path: Buffer): readonly (string | number)[] | null {
  const steps: (string | number)[] = [];
  for (let at = 0; at < path.length;) {
    const kind = path[at];
    if (kind === 0x91) {
      const length = path[at + 1] ?? 0;
      steps.push(path.subarray(at + 2, at + 2 + length).toString('latin1'));
      at += 2 + length + (length % 2);
    } else if (kind === 0x28) {
      steps.push(path[at + 1] ?? 0);
      at += 2;
    } else if (kind === 0x29 && path.length >= at + 4) {
      steps.push(path.readUInt16LE(at + 2));
      at += 4;
    } else if (kind === 0x2a && path.length >= at + 6) {
      steps.push(path.readUInt32LE(at + 2));
      at += 6;
    } else return null;
  }
  return steps.length > 0 ? steps : null;
}
