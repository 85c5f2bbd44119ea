/** Where a tag's value lies, for the person who has to go there. */
import type { Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { ProjectModel } from '@/model/projectModel.ts';

export function placeInWords(model: ProjectModel, tag: Tag, signal: EffectiveSignal): string {
  const device = model.get('device', deviceIdOf(tag) ?? '');
  const link = device && model.get('link', device.linkId);
  if (!signal.driver) return 'a value of Mill Latch itself';
  const at = signal.driver.notation.format(signal.canonical, signal.def.type, device?.dialect ?? {});
  return `${at} of ${device?.name ?? 'its device'} on ${link?.name ?? 'its link'}`;
}
