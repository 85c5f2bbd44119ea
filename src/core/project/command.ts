/** Changes of a project as they are sent. */
import { array, object, string } from 'yup';
import { ENTITY_KINDS, type EntityKind } from './entities.ts';
import { idText, record, words } from './kinds/fieldSchemas.ts';
import { countOfFields, isId, isRecord } from './kinds/plainFields.ts';

/** One change of a command: a whole entity, some fields of one that exists, or null to remove it. */
export interface Change {
  readonly kind: EntityKind;
  readonly id: string;
  readonly set: Readonly<Record<string, unknown>> | null;
  /** What the sender saw in the fields before: when they are something else by now, the change is refused. */
  readonly was?: Readonly<Record<string, unknown>> | undefined;
}
/** A change of a project as it is sent: the sender makes the ids. */
export interface Command {
  readonly id: string;
  /** What was done, in words for the history: “scale of bed_temp changed”. */
  readonly label: string;
  readonly changes: readonly Change[];
}

export const MAX_CHANGES = 20_000;

declare module 'yup' {
  interface CustomSchemaMetadata {
    /** Told quickly where there are thousands: true only where the schema would accept it, false says nothing. */
    readonly isPlain?: (value: unknown) => boolean;
  }
}

/** Without what was seen before. */
function isPlainChange(change: unknown): boolean {
  if (!isRecord(change) || countOfFields(change) !== 3) return false;
  const { kind, id, set } = change;
  return ENTITY_KINDS.includes(kind as EntityKind) && isId(id) && (set === null || isRecord(set));
}

export const COMMAND_SCHEMA = object({
  id: idText().defined(),
  label: words('The label', 200).min(1).defined(),
  changes: array()
    .of(
      object({
        kind: string<EntityKind>().oneOf(ENTITY_KINDS).defined(),
        id: idText().defined(),
        set: record().nullable().defined(),
        was: record().optional(),
      })
        .noUnknown(true, 'A change has kind, id, set and was.')
        .meta({ isPlain: isPlainChange }),
    )
    .min(1, 'A command needs at least one change.')
    .max(MAX_CHANGES, `A command has at most ${MAX_CHANGES} changes.`)
    .defined(),
}).noUnknown(true, 'A command has id, label and changes.');
