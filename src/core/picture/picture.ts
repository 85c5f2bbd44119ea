/** A picture file as it comes in: what it is, and what is kept of it. PNG as it is, SVG without anything that acts or leads out. */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { fail, ok, type Result } from '../result.ts';
import { isPng, readPng } from './png.ts';
import { harmlessSvg } from './svg.ts';

export const PICTURE_TYPES = ['png', 'svg'] as const;
export type PictureType = (typeof PICTURE_TYPES)[number];
export const MEDIA_TYPES: Readonly<Record<PictureType, string>> = { png: 'image/png', svg: 'image/svg+xml' };

export const MOST_PICTURE_BYTES = 3_000_000;
/** Of all pictures of a project together, so that its file stays one that can be taken back. */
export const MOST_PICTURES_BYTES = 40_000_000;
/** Each way: a browser needs four bytes for each of its points. */
export const MOST_PIXELS = 4096;

/** What a project knows of a picture beside its name. */
export interface PictureFacts {
  readonly type: PictureType;
  /** In pixels. */
  readonly width: number;
  readonly height: number;
  /** Of the bytes that are kept: SHA-256 in hexadecimal. */
  readonly digest: string;
  readonly size: number;
}

/** What was kept of a file, for the change that names it. */
export interface TakenPicture extends PictureFacts {
  /** What was taken out of it, in words, each once. */
  readonly removed: readonly string[];
}

export interface ReadPicture extends TakenPicture {
  readonly bytes: Uint8Array;
}

/** Refuses what is no picture, is damaged, or is too large. */
export function readPicture(bytes: Uint8Array): Result<ReadPicture> {
  if (bytes.length === 0) return fail('empty', 'The file is empty.', 'Choose a picture: PNG or SVG.');
  if (bytes.length > MOST_PICTURE_BYTES)
    return fail(
      'too-large',
      `The picture is larger than ${MOST_PICTURE_BYTES / 1_000_000} MB.`,
      'Save it smaller: a panel is seldom wider than 1920 pixels.',
    );
  const read = isPng(bytes) ? readPng(bytes) : svgIn(bytes);
  if (!read.ok) return read;
  const { width, height } = read.value;
  if (width < 1 || height < 1 || width > MOST_PIXELS || height > MOST_PIXELS)
    return fail('size', `The picture is ${width} × ${height} pixels; 1 to ${MOST_PIXELS} each way are taken.`, 'Save it in another size.');
  return ok({ ...read.value, digest: bytesToHex(sha256(read.value.bytes)), size: read.value.bytes.length });
}

type Kept = Pick<ReadPicture, 'type' | 'width' | 'height' | 'bytes' | 'removed'>;

function svgIn(bytes: Uint8Array): Result<Kept> {
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return NO_PICTURE;
  }
  if (!/<\w*:?svg[\s>]/.test(text)) return NO_PICTURE;
  const read = harmlessSvg(text);
  if (!read.ok) return read;
  const { svg, width, height, removed } = read.value;
  return ok({ type: 'svg', width, height, removed, bytes: new TextEncoder().encode(svg) });
}

const NO_PICTURE = fail('no-picture', 'The file is no picture that can be shown.', 'Choose a PNG or an SVG.');
