/** A small project as a page holds it, for tests of what pages work out from it. */
import { EQUAL } from '@/core/project/confirm.ts';
import type { Tag } from '@/core/project/entities.ts';
import type { Scale } from '@/core/scaling/scale.ts';
import { ProjectView } from '@/ui/live/project.ts';
import { uuidOf } from '../support/uuidOf.ts';

export function tagOf(n: number, over: Partial<Tag> = {}): Tag {
  return {
    id: uuidOf(n),
    deviceId: uuidOf(2),
    name: `tag_${n}`,
    group: '',
    address: `HR${n}`,
    type: 'INT',
    order: '',
    periodMs: 1000,
    access: 'read',
    confirm: EQUAL,
    unit: '',
    decimals: null,
    rangeLow: null,
    rangeHigh: null,
    comment: '',
    sourceId: '',
    listName: '',
    isGone: false,
    names: [],
    initial: '',
    ...over,
  };
}

export function projectOf(tags: readonly Tag[], scales: Readonly<Record<string, Scale>> = {}): ProjectView {
  return ProjectView.of({
    revision: 1,
    project: { id: uuidOf(0), name: 'P', dialects: [] },
    links: [{ id: uuidOf(1), name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 502 }, real: null }],
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
      },
    ],
    sources: [],
    tags,
    scales: Object.entries(scales).map(([id, scale]) => ({ id, scale })),
    panels: [],
    pages: [],
    elements: [],
    proofs: [],
  });
}
