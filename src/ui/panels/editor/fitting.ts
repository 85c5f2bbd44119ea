/** Which elements suit a tag, the fittest first. */
import { ELEMENTS, type ElementKind } from '@/core/panel/kinds.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import type { Tag } from '@/core/project/entities.ts';

const FOR_STATE: readonly ElementKind[] = ['lamp', 'switch', 'button', 'symbol', 'value'];
const FOR_NAMED: readonly ElementKind[] = ['lamp', 'choice', 'pick', 'symbol', 'value', 'entry'];
const FOR_NUMBER: readonly ElementKind[] = ['value', 'bar', 'dial', 'entry', 'slider', 'trend', 'lamp'];
const FOR_TEXT: readonly ElementKind[] = ['value', 'entry', 'pick'];

export function fittingFor(tag: Tag): readonly ElementKind[] {
  const type = parseDataType(tag.type);
  if (!type.ok) return ['value'];
  if (type.value.kind === 'boolean') return FOR_STATE;
  if (type.value.kind === 'text') return FOR_TEXT;
  return tag.names.length > 0 ? FOR_NAMED : FOR_NUMBER;
}

/** Whether a tag can be bound to an element of the kind. */
export function suits(kind: ElementKind, tag: Tag): boolean {
  const { takes } = ELEMENTS[kind];
  const type = parseDataType(tag.type);
  if (takes === 'none' || !type.ok) return false;
  if (takes === 'number') return type.value.kind === 'integer' || type.value.kind === 'real';
  return takes === 'any' || type.value.kind === 'boolean';
}
