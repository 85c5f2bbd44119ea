/** A photo of a finding: JPEG, as cameras and canvases write it (ITU-T T.81, annex B). */
import { fail, ok, type Result } from '../result.ts';

export const MOST_PHOTO_BYTES = 3_000_000;
export const MOST_PHOTO_PIXELS = 4096;
/** Photos of one run, so that its report stays one that can be read. */
export const MOST_PHOTOS = 200;

export interface PhotoFacts {
  readonly width: number;
  readonly height: number;
}

/** Markers that begin a frame: SOF0 to SOF15 without DHT, JPG and DAC. */
const isFrame = (marker: number): boolean => marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc;

/** Refused: what is no JPEG, is cut before its frame, or has more pixels than anybody needs. */
export function readPhoto(bytes: Uint8Array): Result<PhotoFacts> {
  if (bytes.length > MOST_PHOTO_BYTES) return fail('too-large', `The photo is larger than ${MOST_PHOTO_BYTES / 1_000_000} MB.`, 'Save it smaller.');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  if (bytes.length < 4 || view.getUint16(0) !== 0xffd8) return noPhoto();
  for (let at = 2; at + 9 < bytes.length;) {
    if (view.getUint8(at) !== 0xff) return noPhoto();
    const marker = view.getUint8(at + 1);
    if (isFrame(marker)) {
      const facts = { height: view.getUint16(at + 5), width: view.getUint16(at + 7) };
      const isRight = facts.width > 0 && facts.height > 0 && Math.max(facts.width, facts.height) <= MOST_PHOTO_PIXELS;
      return isRight ? ok(facts) : fail('photo', `A photo has 1 to ${MOST_PHOTO_PIXELS} pixels a side.`, 'Save it smaller.');
    }
    at += 2 + view.getUint16(at + 2);
  }
  return noPhoto();
}

function noPhoto(): Result<never> {
  return fail('photo', 'The file is no JPEG photo.', 'Take it with the camera, or save it as JPEG.');
}
