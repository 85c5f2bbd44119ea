import type { Device } from '@/core/project/entities.ts';
import { maybeText, record, text, type Aggregate } from './aggregate.ts';

export const devices: Aggregate<Device> = {
  load: 'select id, link_id, name, settings, dialect, witness_url, identity_tag_id, identity, life_tag_id, life_seconds, own_life_tag_id from devices',
  fromRow: (row) => ({
    id: text(row.id),
    linkId: text(row.link_id),
    name: text(row.name),
    settings: record(row.settings),
    dialect: record(row.dialect),
    witnessUrl: text(row.witness_url),
    identityTagId: maybeText(row.identity_tag_id),
    identity: text(row.identity),
    lifeTagId: maybeText(row.life_tag_id),
    lifeSeconds: Number(row.life_seconds),
    ownLifeTagId: maybeText(row.own_life_tag_id),
  }),
  put: (d) => ({
    sql: `insert into devices (id, link_id, name, settings, dialect, witness_url, identity_tag_id, identity, life_tag_id, life_seconds, own_life_tag_id)
          values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)
          on conflict (id) do update set link_id = excluded.link_id, name = excluded.name, settings = excluded.settings,
            dialect = excluded.dialect, witness_url = excluded.witness_url, identity_tag_id = excluded.identity_tag_id,
            identity = excluded.identity, life_tag_id = excluded.life_tag_id, life_seconds = excluded.life_seconds,
            own_life_tag_id = excluded.own_life_tag_id`,
    params: [d.id, d.linkId, d.name, d.settings, d.dialect, d.witnessUrl, d.identityTagId, d.identity, d.lifeTagId, d.lifeSeconds, d.ownLifeTagId],
  }),
  remove: (id) => ({ sql: 'delete from devices where id = $1', params: [id] }),
};
