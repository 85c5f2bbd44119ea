/**
 * A bounded zip of texts and pictures: what comes from outside is measured before it is unpacked, only names that are known are
 * taken, and every file must be the one that the manifest vouches for.
 */
import { jsonObjectIn } from '../jsonText.ts';
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { strToU8, unzipSync, Zip, ZipDeflate, type UnzipFileInfo } from 'fflate';
import { fail, ok, type Result } from '../result.ts';

export interface Unpacked {
  readonly texts: Readonly<Record<string, string>>;
  /** What is no text, as it is. */
  readonly binaries: Readonly<Record<string, Uint8Array>>;
}

export const MAX_ARCHIVE_BYTES = 50_000_000;
const MAX_UNPACKED_BYTES = 200_000_000;
const MAX_FILES = 2000;
const MANIFEST = 'manifest.json';

export interface ArchiveKind {
  /** Stands in the manifest, so that another program's zip is not taken for ours. */
  readonly format: string;
  readonly version: number;
  readonly allowed: RegExp;
  /** Those of them that are no texts. */
  readonly binary: RegExp;
}

/** A file of the zip, in portions of text or bytes. */
export type PortionedFile = readonly [name: string, portions: Iterable<string | Uint8Array>];

/** Packs files a portion at a time, and gives out the bytes of the zip as they come. The manifest comes last. */
export function* packing(files: Iterable<PortionedFile>, { format, version }: ArchiveKind): Generator<Uint8Array, void> {
  let packed: Uint8Array[] = [];
  const problems: Error[] = [];
  const zip = new Zip((error, chunk) => {
    if (error) problems.push(error);
    else packed.push(chunk);
  });
  const digests: Record<string, string> = {};
  const ready = (): readonly Uint8Array[] => {
    for (const problem of problems) throw problem;
    const chunks = packed;
    packed = [];
    return chunks;
  };
  function* add(name: string, portions: Iterable<string | Uint8Array>): Generator<Uint8Array> {
    const entry = new ZipDeflate(name, { level: 6 });
    zip.add(entry);
    const hash = sha256.create();
    for (const portion of portions) {
      const bytes = typeof portion === 'string' ? strToU8(portion) : portion;
      hash.update(bytes);
      entry.push(bytes);
      yield* ready();
    }
    entry.push(new Uint8Array(0), true);
    digests[name] = bytesToHex(hash.digest());
  }
  for (const [name, portions] of files) yield* add(name, portions);
  yield* add(MANIFEST, [JSON.stringify({ format, version, files: { ...digests } }, null, 2)]);
  zip.end();
  yield* ready();
}

export function unpackFiles(zip: Uint8Array, kind: ArchiveKind): Result<Unpacked> {
  if (zip.length === 0) return fail('empty', 'The file is empty.', 'Export the project again.');
  if (zip.length > MAX_ARCHIVE_BYTES) return fail('too-large', `The file is larger than ${MAX_ARCHIVE_BYTES / 1_000_000} MB.`);
  const unpacked = unpack(zip, kind);
  if (!unpacked.ok) return unpacked;
  const { [MANIFEST]: manifestBytes, ...files } = unpacked.value;
  const manifest = jsonObjectIn(textIn(manifestBytes ?? new Uint8Array()) ?? '');
  if (manifest?.format !== kind.format)
    return fail('not-ours', 'This zip is no project file of Mill Latch.', 'Choose a file that was exported with “Export the project”.');
  if (typeof manifest.version !== 'number' || manifest.version > kind.version)
    return fail(
      'newer',
      `The file was written by a newer Mill Latch (version ${String(manifest.version)}, this one knows ${kind.version}).`,
      'Import it with the newer one.',
    );
  const texts: Record<string, string> = {};
  const binaries: Record<string, Uint8Array> = {};
  const wanted = typeof manifest.files === 'object' && manifest.files !== null ? (manifest.files as Record<string, unknown>) : {};
  for (const name of new Set([...Object.keys(wanted), ...Object.keys(files)])) {
    const bytes = files[name];
    if (!bytes) return fail('damaged', `The file lacks ${name}.`, 'It is not complete: export the project again.', name);
    const isBinary = kind.binary.test(name);
    const text = isBinary ? null : textIn(bytes);
    if (wanted[name] !== bytesToHex(sha256(bytes)) || (text === null && !isBinary))
      return fail('damaged', `${name} is not what was exported.`, 'The file was damaged or edited: export the project again.', name);
    if (text === null) binaries[name] = bytes;
    else texts[name] = text;
  }
  return ok({ texts, binaries });
}

function unpack(zip: Uint8Array, { allowed }: ArchiveKind): Result<Record<string, Uint8Array>> {
  let total = 0;
  let count = 0;
  let refused: Result<never> | null = null;
  const refuse = (code: string, message: string, remedy: string, place?: string): never => {
    refused = fail(code, message, remedy, place);
    // Thrown out of the walk over the directory: one that claims billions of entries must not be walked to its end.
    throw new Error(message);
  };
  const filter = (file: UnzipFileInfo): boolean => {
    count++;
    total += file.originalSize;
    if (count > MAX_FILES) refuse('bomb', `The zip holds more than ${MAX_FILES} files.`, 'It is no project file.');
    if (total > MAX_UNPACKED_BYTES)
      refuse('bomb', `The zip would unpack to more than ${MAX_UNPACKED_BYTES / 1_000_000} MB.`, 'It is no project file.');
    const name = file.name.slice(0, 60);
    if (file.name !== MANIFEST && !allowed.test(file.name))
      refuse('name', `The zip holds “${name}”, which has no place in a project file.`, 'Nothing was taken from it.', name);
    return true;
  };
  try {
    // The sizes that the zip states bound what is unpacked: a file that is longer than it says is cut, and then refused.
    return ok(unzipSync(zip, { filter }));
  } catch {
    return refused ?? fail('not-zip', 'The file is no zip, or it is damaged.', 'Export the project again.');
  }
}

/** Null for bytes that are no UTF-8. */
function textIn(bytes: Uint8Array): string | null {
  try {
    return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
  } catch {
    return null;
  }
}
