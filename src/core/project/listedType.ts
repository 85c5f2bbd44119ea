/** A tag whose list says another type than it is read as, and what would put it right. */
import { orderWidth } from '../value/byteOrder.ts';
import { parseDataType } from '../value/dataType.ts';
import { typeDisagreement } from '../value/typeDisagreement.ts';
import type { Change } from './command.ts';
import type { Tag } from './entities.ts';
import { pointIn, withPoint } from './tagSource.ts';

export interface TypeDisagreement {
  /** The type that its list says. */
  readonly listed: string;
  readonly message: string;
  /** Reads it as its list says; an order of another width goes back to the device's. */
  readonly remedy: Change;
}

/** Null where both agree, or its list says nothing. */
export function disagreementOf(tag: Tag): TypeDisagreement | null {
  if (tag.listType === '' || tag.listType === tag.type) return null;
  const [listed, read] = [parseDataType(tag.listType), parseDataType(tag.type)];
  if (!listed.ok || !read.ok) return null;
  const message = typeDisagreement(listed.value, read.value);
  if (message === null) return null;
  const order = pointIn(tag)?.order ?? '';
  const keepsOrder = order === '' || orderWidth(listed.value) === orderWidth(read.value);
  return {
    listed: tag.listType,
    message: `Its list says ${tag.listType}. ${message}`,
    remedy: { kind: 'tag', id: tag.id, set: { type: tag.listType, ...(keepsOrder ? {} : withPoint(tag, { order: '' })) } },
  };
}
