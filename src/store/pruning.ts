/**
 * What is kept of the past. The change log keeps its newest changes, and undo reaches back as far. Of each list the newest
 * versions stay, with the one it stands at and all that undo or redo can lead to. Secrets, pictures and PINs go once nothing
 * names them that is there or can come back. Writes and proofs are always kept.
 */
import { CHANGES_KEPT, VERSIONS_KEPT } from '@/core/project/kept.ts';
import type { Database } from './database.ts';
import type { Statement } from './protocol.ts';

export interface Kept {
  /** Changes in the log. */
  readonly changes: number;
  /** Versions of each list; of a list that was removed, none but those that undo can lead to. */
  readonly versions: number;
  /** Hours that a secret or a picture is kept which nothing names (yet): it is kept before what names it. */
  readonly unnamedHours?: number;
  /** Events of alarms. */
  readonly alarmEvents?: number;
}
const ALARM_EVENTS_KEPT = 100_000;
const KEPT: Kept = { changes: CHANGES_KEPT, versions: VERSIONS_KEPT };

/** Removes what is past that. @param packsInUse those in which anything still lies */
export async function prune(database: Database, packsInUse: Iterable<string>, kept = KEPT): Promise<void> {
  const removed = await database.transaction(
    [
      ...changesBefore(kept),
      ...versionsBefore(kept),
      ...unusedPacks(packsInUse),
      ...unusedSecrets(kept),
      ...unusedPictures(kept),
      ...UNUSED_PINS,
      ...alarmEventsBefore(kept),
    ],
    true,
  );
  // The database takes room that was given back only once it is told so.
  if (removed.some((rows) => rows.length > 0)) await database.vacuum(['change_log', 'list_versions', 'packs', 'unpacked']);
}

function changesBefore({ changes }: Kept): readonly Statement[] {
  return [
    { sql: 'delete from change_log where seq <= (select seq from change_log order by seq desc offset $1 limit 1) returning seq', params: [changes] },
  ];
}

function versionsBefore({ versions }: Kept): readonly Statement[] {
  return [
    {
      sql: `delete from list_versions v
            where not exists (select 1 from sources s where s.version_id = v.id)
              and not exists (select 1 from change_log c where c.state <> 'dropped' and (c.version_ids is null or v.id = any (c.version_ids)))
              and (not exists (select 1 from sources s where s.id = v.source_id)
                or $1 <= (select count(*) from list_versions n where n.source_id = v.source_id and (n.at, n.id) > (v.at, v.id)))
            returning id`,
      params: [versions],
    },
  ];
}

function unusedPacks(packsInUse: Iterable<string>): readonly Statement[] {
  return [
    {
      sql: `delete from packs where id <> all ($1::uuid[])
              and not exists (select 1 from change_log where pack_id = packs.id)
              and not exists (select 1 from list_versions where pack_id = packs.id)
            returning id`,
      params: [`{${[...packsInUse].join(',')}}`],
    },
  ];
}

const UNNAMED_HOURS = 24;

/** What large changes name is packed, and cannot be looked for: as long as there is one that undo or redo can lead to, all stay. */
function unusedSecrets({ unnamedHours = UNNAMED_HOURS }: Kept): readonly Statement[] {
  return [
    {
      sql: `delete from secrets s
            where s.at < now() - make_interval(hours => $1)
              and not exists (select 1 from links l where l.settings::text like '%' || s.id || '%')
              and not exists (select 1 from devices d where d.settings::text like '%' || s.id || '%')
              and not exists (select 1 from change_log c where c.state <> 'dropped' and (c.packed is not null or c.changes::text like '%' || s.id || '%'))`,
      params: [unnamedHours],
    },
  ];
}

/** Nobody has a PIN who is none of the people: they are kept once they are named. */
const UNUSED_PINS: readonly Statement[] = [
  {
    sql: `delete from operator_pins p
          where not exists (select 1 from operators o where o.id = p.operator_id)
            and not exists (select 1 from change_log c where c.state <> 'dropped' and (c.packed is not null or c.changes::text like '%' || p.operator_id || '%'))`,
    params: [],
  },
];

/** What became of alarms, and how alarms stand that are gone. */
export function alarmEventsBefore({ alarmEvents = ALARM_EVENTS_KEPT }: Partial<Kept>): readonly Statement[] {
  return [
    { sql: 'delete from alarm_events where seq <= (select max(seq) - $1 from alarm_events)', params: [alarmEvents] },
    { sql: 'delete from alarm_standings s where not exists (select 1 from alarms a where a.id = s.alarm_id)', params: [] },
  ];
}

function unusedPictures({ unnamedHours = UNNAMED_HOURS }: Kept): readonly Statement[] {
  return [
    {
      sql: `delete from picture_data d
            where d.at < now() - make_interval(hours => $1)
              and not exists (select 1 from pictures p where p.digest = d.digest)
              and not exists (select 1 from change_log c where c.state <> 'dropped' and (c.packed is not null or c.changes::text like '%' || d.digest || '%'))`,
      params: [unnamedHours],
    },
  ];
}
