import type { Tag } from '@/core/project/entities.ts';
import { addressOf } from '@/core/project/tagSource.ts';

/** The address of a tag that may not be there. */
export function addressIn(tag: Tag | null | undefined): string | undefined {
  return tag ? addressOf(tag) : undefined;
}
