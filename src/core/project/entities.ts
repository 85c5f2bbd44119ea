/** What a project is made of: the kinds of things in the order in which they can be stored, each referring only to earlier ones. */
import type { AnyObjectSchema } from 'yup';
import { alarmKind, type Alarm } from './kinds/alarm.ts';
import { blockKind, type Block } from './kinds/block.ts';
import { copyRuleKind, type CopyRule } from './kinds/copyRule.ts';
import { deviceKind, type Device } from './kinds/device.ts';
import { elementKind, type Element } from './kinds/element.ts';
import { enumerationKind, type Enumeration } from './kinds/enumeration.ts';
import { groupKind, type Group } from './kinds/group.ts';
import { fieldsOf, schemaOf, type Kind, type Reference } from './kinds/kind.ts';
import { linkKind, type Link } from './kinds/link.ts';
import { memberKind, type Member } from './kinds/member.ts';
import { pageKind, type Page } from './kinds/page.ts';
import { panelKind, type Panel } from './kinds/panel.ts';
import { panelWordKind, type PanelWord } from './kinds/panelWord.ts';
import { pictureKind, type Picture } from './kinds/picture.ts';
import { projectKind, type Project } from './kinds/project.ts';
import { scaleKind, type TagScale } from './kinds/scale.ts';
import { sharedScaleKind, type SharedScale } from './kinds/sharedScale.ts';
import { stateListKind, type StateList } from './kinds/stateList.ts';
import { sourceKind, type Source } from './kinds/source.ts';
import { subjectListKind, type SubjectList } from './kinds/subjectList.ts';
import { translationKind, type Translation } from './kinds/translation.ts';
import { operatorKind, type Operator } from './kinds/operator.ts';
import { structureKind, type Structure, type StructureMember } from './kinds/structure.ts';
import { simulationKind, type Simulation } from './kinds/simulation.ts';
import { tagKind, type Tag } from './kinds/tag.ts';

export type {
  Alarm,
  Block,
  CopyRule,
  Device,
  Element,
  Enumeration,
  Group,
  Link,
  Member,
  Page,
  Panel,
  PanelWord,
  Picture,
  Project,
  SharedScale,
  Simulation,
  Source,
  StateList,
  Structure,
  StructureMember,
  SubjectList,
  Translation,
  Operator,
  Tag,
  TagScale,
};

/** The kinds as they are written, each with the name of its list. */
const WRITTEN = {
  project: projectKind,
  link: linkKind,
  device: deviceKind,
  group: groupKind,
  enumeration: enumerationKind,
  structure: structureKind,
  block: blockKind,
  source: sourceKind,
  sharedScale: sharedScaleKind,
  tag: tagKind,
  scale: scaleKind,
  member: memberKind,
  simulation: simulationKind,
  copyRule: copyRuleKind,
  alarm: alarmKind,
  picture: pictureKind,
  stateList: stateListKind,
  subjectList: subjectListKind,
  translation: translationKind,
  operator: operatorKind,
  panel: panelKind,
  page: pageKind,
  element: elementKind,
  panelWord: panelWordKind,
} as const;

export interface Entities {
  readonly project: Project;
  readonly link: Link;
  readonly device: Device;
  readonly group: Group;
  readonly enumeration: Enumeration;
  readonly structure: Structure;
  readonly block: Block;
  readonly source: Source;
  readonly sharedScale: SharedScale;
  readonly tag: Tag;
  readonly scale: TagScale;
  readonly member: Member;
  readonly simulation: Simulation;
  readonly copyRule: CopyRule;
  readonly alarm: Alarm;
  readonly picture: Picture;
  readonly stateList: StateList;
  readonly subjectList: SubjectList;
  readonly translation: Translation;
  readonly operator: Operator;
  readonly panel: Panel;
  readonly page: Page;
  readonly element: Element;
  readonly panelWord: PanelWord;
}
export type EntityKind = keyof Entities;
export type AnyEntity = Entities[EntityKind];
/** The name of a kind's list in the snapshot and the project file. */
export type PluralOf<K extends EntityKind> = (typeof WRITTEN)[K]['plural'];

export const KINDS: { readonly [K in EntityKind]: Kind<Entities[K]> } = WRITTEN;
export const ENTITY_KINDS = Object.keys(KINDS) as readonly EntityKind[];

export function pluralOf<K extends EntityKind>(kind: K): PluralOf<K> {
  return WRITTEN[kind].plural;
}

/** What a field is called in forms, differences and the API description. */
export function labelOf<K extends EntityKind>(kind: K, field: keyof Entities[K] & string): string {
  return KINDS[kind].fields[field].label;
}

/** One strict schema a kind: whole entities only, unknown fields refused. Made once, since making one costs more than using it. */
export const ENTITY_SCHEMAS = Object.fromEntries(
  ENTITY_KINDS.map((kind) => [kind, schemaOf(KINDS[kind]).noUnknown(true, `A ${kind} has no such field.`)]),
) as Readonly<Record<EntityKind, AnyObjectSchema>>;

/** What an entity has where its maker says nothing: fields that came later than the first projects. */
export const ENTITY_DEFAULTS = Object.fromEntries(
  ENTITY_KINDS.map((kind) => [
    kind,
    Object.fromEntries(fieldsOf(KINDS[kind]).flatMap(([name, { unsaid }]) => (unsaid === undefined ? [] : [[name, unsaid]]))),
  ]),
) as { readonly [K in EntityKind]: Readonly<Record<string, unknown>> };

/** A field of one kind that names an entity of another. */
export interface Referring extends Reference<unknown> {
  readonly kind: EntityKind;
  readonly field: string;
  readonly to: EntityKind;
}
export const REFERENCES: readonly Referring[] = ENTITY_KINDS.flatMap((kind) =>
  fieldsOf(KINDS[kind]).flatMap(([field, { refers }]) => (refers ? [{ ...refers, kind, field, to: refers.to as EntityKind }] : [])),
);
