import type { AnyObjectSchema } from 'yup';

/** One of the operations of the API, as its OpenAPI document tells it. */
export interface Operation {
  readonly method: 'get' | 'post';
  readonly path: string;
  readonly summary: string;
  readonly answer: string;
  readonly body?: AnyObjectSchema;
  /** The body is a file as it is. */
  readonly takesFile?: boolean;
  readonly givesFile?: boolean | string;
  readonly query?: Readonly<Record<string, string>>;
}
