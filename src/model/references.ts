/** Which entities refer to which. */
import type { AnyEntity, Device, Element, Entities, EntityKind, Page, Tag } from '@/core/project/entities.ts';

/** What an entity refers to: kind, id, and the field that names it. */
export function referencesOf(kind: EntityKind, entity: AnyEntity): readonly (readonly [EntityKind, string, string])[] {
  const maybe = (target: EntityKind, id: string | null, field: string): (readonly [EntityKind, string, string])[] =>
    id === null ? [] : [[target, id, field]];
  switch (kind) {
    case 'device': {
      const device = entity as Device;
      return [
        ['link', device.linkId, 'linkId'],
        ...maybe('tag', device.identityTagId, 'identityTagId'),
        ...maybe('tag', device.lifeTagId, 'lifeTagId'),
        ...maybe('tag', device.ownLifeTagId, 'ownLifeTagId'),
      ];
    }
    case 'tag': {
      const tag = entity as Tag;
      return [['device', tag.deviceId, 'deviceId'], ...maybe('tag', tag.confirm.kind === 'follows' ? tag.confirm.tagId : null, 'confirm')];
    }
    case 'source':
      return [['device', (entity as Entities['source']).deviceId, 'deviceId']];
    case 'scale':
      return [['tag', entity.id, 'id']];
    case 'page':
      return [['panel', (entity as Page).panelId, 'panelId']];
    case 'element':
      return [['page', (entity as Element).pageId, 'pageId'], ...maybe('tag', (entity as Element).tagId, 'tagId')];
    case 'project':
    case 'link':
    case 'panel':
      return [];
  }
}
