/**
 * What there is to say of one kind of thing that a project is made of, said once: model, store, snapshot, project file, API
 * and what panels see of it follow from it. A new kind is one such file, its name in `entities.ts`, and one migration.
 */
import { object, type AnyObjectSchema, type ISchema } from 'yup';

export interface Kind<T extends { readonly id: string }> {
  /** Its lists in the snapshot and the project file, and its table in the database. */
  readonly plural: string;
  readonly table: string;
  /** What several of it are called where people read it; its list's name where that says it. */
  readonly words?: string;
  readonly fields: { readonly [F in keyof T]-?: Field<T[F]> };
  /** What it is called in a list of differences, where it has no field `name`; without either, by its tag. */
  readonly title?: (entity: T) => string;
  /** Among which others of its kind its name must be the only one that looks like this; any others may have it. */
  readonly siblings?: Siblings<T>;
  /** Told quickly for thousands at once: true only where the schema would accept it, false says nothing. */
  readonly isPlain?: (entity: Readonly<Partial<Record<keyof T, unknown>>>) => boolean;
}

export interface Siblings<T> {
  readonly nameOf: (entity: T) => string;
  /** The same for all that must have different names. */
  readonly among: (entity: T) => string;
  readonly taken: (name: string) => string;
}

export interface Field<V> {
  /** For forms, differences and the API description. */
  readonly label: string;
  readonly schema: ISchema<unknown>;
  readonly column: string;
  readonly stored: Stored;
  /** What it is where nobody says: it came later than the first projects. */
  readonly unsaid?: V;
  readonly refers?: Reference<V>;
}

/** How the database gives it back: as a text, as a number, or as what it is (JSON, a boolean, a word). */
export type Stored = 'text' | 'number' | 'plain';

/** Another entity that a field names. */
export interface Reference<V> {
  readonly to: string;
  /** The id in the value, null where it names none. */
  readonly idIn: (value: V) => string | null;
  /** What becomes of this entity, or of the value, when the other is removed. */
  readonly whenGone: 'removed' | ((value: V) => V);
}

/** Belongs to another one, and goes with it. */
export function belongsTo<V extends string | null>(to: string): Reference<V> {
  return { to, idIn: (id) => id, whenGone: 'removed' };
}

/** Names another one, or none: and none once that is gone. */
export function names(to: string): Reference<string | null> {
  return { to, idIn: (id) => id, whenGone: () => null };
}

/** Every field with its name, whatever its value is. */
export function fieldsOf(kind: { readonly fields: object }): readonly (readonly [name: string, field: Field<unknown>])[] {
  return Object.entries(kind.fields);
}

export function schemaOf(kind: { readonly fields: object }): AnyObjectSchema {
  return object(Object.fromEntries(fieldsOf(kind).map(([name, { schema }]) => [name, schema])) as never);
}
