import type { Device } from '@/core/project/entities.ts';
import { aggregate, count, json, maybeText, text } from './aggregate.ts';

export const devices = aggregate<Device>('devices', {
  id: ['id', text],
  linkId: ['link_id', text],
  name: ['name', text],
  settings: ['settings', json],
  dialect: ['dialect', json],
  witnessUrl: ['witness_url', text],
  identityTagId: ['identity_tag_id', maybeText],
  identity: ['identity', text],
  lifeTagId: ['life_tag_id', maybeText],
  lifeSeconds: ['life_seconds', count],
  ownLifeTagId: ['own_life_tag_id', maybeText],
});
