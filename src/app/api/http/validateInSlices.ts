/** Checks a body whose lists may hold thousands of things, without holding everything else up meanwhile. */
import { ArraySchema, mixed, type AnyObject, type AnyObjectSchema, type ISchema, type Schema, type ValidateOptions } from 'yup';
import { inSlices } from '@/core/inSlices.ts';

/** Items of a list that are checked with the rest of the body at once. */
const FEW = 100;

type List = ArraySchema<unknown[] | null | undefined, AnyObject, unknown>;

/** @throws ValidationError as `schema.validate(body, { strict: true })` would, its path included */
export async function validateInSlices(schema: AnyObjectSchema, body: Readonly<Record<string, unknown>>): Promise<unknown> {
  const long = Object.entries(schema.fields).flatMap(([name, field]) => {
    const items = body[name];
    return field instanceof ArraySchema && Array.isArray(items) && items.length > FEW ? [{ name, field: field as List, items }] : [];
  });
  // What holds for a list as a whole (its length) is checked with the body, before its items.
  const outer = schema.shape(Object.fromEntries(long.map(({ name, field }) => [name, field.of(mixed() as ISchema<unknown, AnyObject>)])));
  await outer.validate(body, { strict: true });
  for (const { name, field, items } of long) await inSlices(checking(name, field.innerType as Schema, items));
  return body;
}

function* checking(name: string, inner: Schema, items: readonly unknown[]): Generator<void, void> {
  const { isPlain } = inner.spec.meta ?? {};
  for (const [i, item] of items.entries()) {
    // Where it stands is an option that yup takes and does not offer in its types.
    const options = { strict: true, path: `${name}[${i}]` } satisfies ValidateOptions & { path: string };
    if (!isPlain?.(item)) inner.validateSync(item, options);
    yield;
  }
}
