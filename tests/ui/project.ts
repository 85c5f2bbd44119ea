/** A small project as a page holds it, for tests of what pages work out from it. */
import { EQUAL } from '@/core/project/confirm.ts';
import type { Group, Tag } from '@/core/project/entities.ts';
import { newPoint, type PointSource } from '@/core/project/tagSource.ts';
import type { Scale } from '@/core/scaling/scale.ts';
import { ProjectView } from '@/ui/live/project.ts';
import type { Snapshot } from '@/core/project/snapshot.ts';
import { uuidOf } from '../support/uuidOf.ts';

/** @param over fields of the tag or of its point */
export function tagOf(n: number, { address = `HR${n}`, order = '', periodMs = 1000, ...over }: Partial<Tag & Omit<PointSource, 'kind'>> = {}): Tag {
  return {
    id: uuidOf(n),
    name: `tag_${n}`,
    groupId: null,
    source: newPoint(uuidOf(2), address, { order, periodMs }),
    type: 'INT',
    access: 'read',
    confirm: EQUAL,
    unit: '',
    decimals: null,
    rangeLow: null,
    rangeHigh: null,
    rawRange: null,
    displayRange: null,
    limits: null,
    unavailable: null,
    comment: '',
    listId: '',
    listName: '',
    listType: '',
    isGone: false,
    names: [],
    enumerationId: null,
    initial: '',
    ...over,
  };
}

export function projectOf(
  tags: readonly Tag[],
  scales: Readonly<Record<string, Scale>> = {},
  groups: readonly Group[] = [],
  more: Partial<Snapshot> = {},
): ProjectView {
  return ProjectView.of({
    revision: 1,
    project: { id: uuidOf(0), name: 'P', dialects: [] },
    links: [{ id: uuidOf(1), name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 502 } }],
    devices: [
      {
        id: uuidOf(2),
        linkId: uuidOf(1),
        name: 'KILN',
        settings: { unit: 1 },
        dialect: {},
        witnessUrl: '',
        identityTagId: null,
        identity: '',
        lifeTagId: null,
        lifeSeconds: 5,
        ownLifeTagId: null,
        reads: 'always',
        isSimulated: false,
      },
    ],
    groups,
    enumerations: [],
    structures: [],
    blocks: [],
    members: [],
    simulations: [],
    copyRules: [],
    sources: [],
    tags,
    scales: Object.entries(scales).map(([id, scale]) => ({ id, scale, sharedId: null })),
    sharedScales: [],
    pictures: [],
    stateLists: [],
    subjectLists: [],
    translations: [],
    operators: [],
    alarms: [],
    panels: [],
    pages: [],
    elements: [],
    panelWords: [],
    proofs: [],
    drivers: [],
    ...more,
  });
}
