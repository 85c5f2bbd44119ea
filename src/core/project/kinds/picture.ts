import { string } from 'yup';
import { MOST_PICTURE_BYTES, MOST_PIXELS, PICTURE_TYPES, type PictureFacts } from '../../picture/picture.ts';
import { ID_FIELD, nameField, whole } from './fieldSchemas.ts';
import type { Kind } from './kind.ts';

/** A picture file that pages show; its bytes are kept beside the project, by their digest. */
export interface Picture extends PictureFacts {
  readonly id: string;
  readonly name: string;
}

const pixels = (label: string) => whole(label, 1, MOST_PIXELS).defined();

export const pictureKind = {
  plural: 'pictures',
  table: 'pictures',
  words: 'pictures',
  siblings: { nameOf: ({ name }) => name, among: () => '', taken: (name) => `A picture named “${name}” is there already.` },
  fields: {
    id: ID_FIELD,
    name: nameField('The picture'),
    type: { label: 'Type', schema: string().oneOf(PICTURE_TYPES).defined(), column: 'type', stored: 'plain' },
    width: { label: 'Width', schema: pixels('The width'), column: 'width', stored: 'number' },
    height: { label: 'Height', schema: pixels('The height'), column: 'height', stored: 'number' },
    digest: {
      label: 'Digest',
      schema: string()
        .matches(/^[0-9a-f]{64}$/, 'A digest has 64 hexadecimal digits.')
        .defined(),
      column: 'digest',
      stored: 'plain',
    },
    size: { label: 'Bytes', schema: whole('The size', 1, MOST_PICTURE_BYTES).defined(), column: 'size', stored: 'number' },
  },
} as const satisfies Kind<Picture>;
