/** Pictures of pages: taken in, made harmless, and given out. */
import { MOST_PICTURES_BYTES, readPicture, type PictureType, type TakenPicture } from '@/core/picture/picture.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { PictureStore } from '@/store/pictureStore.ts';

export interface PictureFile {
  readonly type: PictureType;
  readonly digest: string;
  readonly bytes: Uint8Array<ArrayBuffer>;
}

export class PictureService {
  readonly #model: ProjectModel;
  readonly #store: Pick<PictureStore, 'keep' | 'bytesOf'>;

  constructor(model: ProjectModel, store: Pick<PictureStore, 'keep' | 'bytesOf'>) {
    this.#model = model;
    this.#store = store;
  }

  /** Keeps the bytes; the project is changed by a command that names them. */
  async take(bytes: Uint8Array): Promise<Result<TakenPicture>> {
    const read = readPicture(bytes);
    if (!read.ok) return read;
    const { bytes: kept, ...facts } = read.value;
    const others = new Map(this.#model.all('picture').map(({ digest, size }) => [digest, size]));
    others.set(facts.digest, facts.size);
    if ([...others.values()].reduce((sum, size) => sum + size, 0) > MOST_PICTURES_BYTES)
      return fail(
        'too-large',
        `The pictures of the project would have more than ${MOST_PICTURES_BYTES / 1_000_000} MB together.`,
        'Remove some, or save them smaller.',
      );
    await this.#store.keep(facts.digest, facts.type, kept);
    return ok(facts);
  }

  async file(id: string): Promise<Result<PictureFile>> {
    const picture = this.#model.get('picture', id);
    const bytes = picture && (await this.#store.bytesOf(picture.digest));
    return picture && bytes ? ok({ type: picture.type, digest: picture.digest, bytes }) : fail('gone', 'There is no such picture (any more).');
  }
}
