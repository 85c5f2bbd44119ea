/** What the strip says: the five stages of one tag, where the path breaks, why, and the remedy. */
import { counted } from '@/core/counted.ts';
import { plausibleWays } from '@/core/check/plausibleWays.ts';
import { cureOf, type Cure } from '@/core/check/explained.ts';
import { isFarOut, suspicionsOf, type Suspicion } from '@/core/check/suspicion.ts';
import { wireFromJson, wireInWords } from '@/core/live/wireJson.ts';
import { AS_WRITTEN } from '@/core/panel/scene.ts';
import { elementText, shownOf } from '@/core/panel/elementText.ts';
import { ELEMENTS } from '@/core/panel/kinds.ts';
import { shownOn } from '@/core/panel/shownOn.ts';
import type { Change } from '@/core/project/command.ts';
import type { Element, Tag } from '@/core/project/entities.ts';
import { addressOf } from '@/core/project/tagSource.ts';
import { scalePhrase, type Scale } from '@/core/scaling/scale.ts';
import { decodedSettingInWords, NO_VALUE_TEXT, rawText, type SignalDefinition, type WireValue } from '@/core/signal.ts';
import { formatDataType, parseDataType, type DataType } from '@/core/value/dataType.ts';
import { isDecimal } from '@/core/value/decimal.ts';
import type { Radix } from '@/core/value/radix.ts';
import { fromJson, type ValueJson } from '@/core/value/engineering.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { LiveSample } from '@/core/live/messages.ts';
import type { TagView } from '../live/liveClient.ts';
import { expressionText } from '../expression/reading.ts';
import type { ProjectView } from '../live/project.ts';
import { dayAndTime } from '../parts/moment.ts';
import { cureChange } from '@/mapping/cure.ts';
import type { Calculation } from '@/mapping/effective.ts';

export interface PathStage {
  readonly title: string;
  readonly value: string;
  readonly setting: string;
  /** Where the setting of this stage is changed. */
  readonly href: string;
}

export interface SignalPath {
  readonly where: string;
  readonly stages: readonly PathStage[];
  /** Index of the stage where the path breaks. */
  readonly brokenAt: number | null;
  readonly finding: string | null;
  /** The value is implausible: other ways to read it can be looked at. */
  readonly isQuestion: boolean;
  readonly remedy: { readonly button: string; readonly label: string; readonly changes: readonly Change[] } | null;
}

/** Clocks that differ by less are not worth a word. */
const CLOCKS_DIFFER_MS = 50;
/** Differing samples that a factor has to explain before it is offered. */
const LEAST_SEEN = 3;

/** @param radix in which raw whole numbers are shown */
export function pathOf(project: ProjectView, tag: Tag, view: TagView, radix: Radix = 10): SignalPath {
  const device = project.deviceOf(tag);
  const where = whereOf(project, tag);
  const effective = project.effective(tag.id);
  if (!effective.ok) {
    const stage = (title: string, setting: string, href: string): PathStage => ({ title, value: '–', setting, href });
    return {
      where,
      stages: [
        stage('Controller memory', addressOf(tag), '/map'),
        stage('On the wire', '', '/links'),
        stage('Decoded', tag.type, '/map'),
        stage('Engineering', '', '/scale'),
        stage('On the panel', '', '/panels'),
      ],
      brokenAt: effective.problem.place === 'source.order' ? 2 : 0,
      finding: effective.problem.message,
      isQuestion: false,
      remedy: null,
    };
  }
  const { driver, canonical, def } = effective.value;
  const sample = view.level === 'bad' && !view.sample?.wire ? null : view.sample;
  const isLost = view.level === 'bad' && view.sample?.broken?.stage !== 'decoded';
  const element = project.elementsOf(tag.id).find(({ kind }) => ELEMENTS[kind].showsText);
  const unit = def.unit ? ` ${def.unit}` : '';
  const shown = element ? shownOn(def, project.panelOf(element)?.units ?? [], element.settings) : def;
  const panelText = element ? panelTextOf(project, element, view, def) : view.text;
  const panelUnit = shown.unit === def.unit || view.level === 'bad' ? '' : ` ${shown.unit}`;
  const { calculation, index } = effective.value;
  // Where an index led when it was read.
  const place = view.sample?.place ?? canonical;
  const isNowhere = index !== null && view.sample?.place === undefined;
  const stages: PathStage[] = [
    {
      title: calculation ? 'Calculated from' : device?.isSimulated ? 'Simulated memory' : 'Controller memory',
      value: driver
        ? isNowhere
          ? '–'
          : driver.notation.format(place, def.type, device?.dialect ?? {})
        : calculation
          ? inputsInWords(project, calculation)
          : tag.source.kind,
      setting: driver
        ? `${index ? `${addressOf(tag)} moved by ${expressionText(project, tag)} · ` : ''}${driver.notation.explain(place, device?.dialect ?? {})}`
        : calculation
          ? `= ${expressionText(project, tag)}`
          : keptInWords(view.sample),
      href: '/map',
    },
    {
      title: calculation ? 'Result' : device?.isSimulated ? 'As on the wire' : 'On the wire',
      value: sample?.wire && !isLost ? wireInWords(sample.wire) : '–',
      setting: device?.isSimulated
        ? 'made up here: nothing was asked'
        : driver
          ? `${driver.wireInWords(place, def.type, device?.dialect ?? {})}${sample && !isLost ? howItCame(sample) : ''}`
          : calculation
            ? doubtsInWords(calculation)
            : 'no wire',
      href: '/links',
    },
    {
      title: 'Decoded',
      value: sample?.raw && !isLost ? rawJsonText(def.type, sample.raw, radix) : '–',
      setting: driver?.bytes ? decodedSettingInWords(def) : formatDataType(def.type),
      href: '/map',
    },
    {
      title: 'Engineering',
      value: sample?.eng && !isLost ? `${view.level === 'bad' ? '–' : view.text}${unit}` : '–',
      setting: scaleInWords(def.scale, def.decimals),
      href: '/scale',
    },
    {
      title: 'On the panel',
      value: `${panelText}${panelUnit}`,
      setting: element ? `${project.page(element.pageId)?.name ?? ''}, ${element.label || ELEMENTS[element.kind].name}` : 'on no page yet',
      href: element ? `/panels?page=${element.pageId}` : '/panels',
    },
  ];
  // What was proven is right: then it is the process that is out of range.
  const found = project.proofOf(tag.id).state === 'proven' ? [] : suspicions(def, view);
  const broken = view.reason === 'implausible' ? questionOf(view, def) : breakOf(view, def, found[0]);
  const isQuestion = view.reason === 'implausible';
  return {
    where,
    stages,
    brokenAt: broken.at,
    finding: broken.finding,
    isQuestion,
    remedy: found[0] ? remedyOf(project, tag, cureOf(def, found[0].way, 1)) : declaredRemedy(tag, view),
  };
}

/** What the element draws of the value of now. */
function panelTextOf(project: ProjectView, element: Element, view: TagView, def: SignalDefinition): string {
  const texts = {
    units: project.panelOf(element)?.units ?? [],
    statesIn: (id: string) => project.stateList(id)?.states ?? null,
    word: AS_WRITTEN.word,
  };
  const raw = view.sample?.raw && view.level !== 'bad' ? fromJson(view.sample.raw) : null;
  const seen = { raw: raw?.ok && !isDecimal(raw.value) ? raw.value : null, text: view.text, level: view.level };
  return elementText(element, view.sample ? shownOf(element, def, seen, texts) : null, texts);
}

/** When a local value was last kept; one that nobody has written is as it begins. */
function keptInWords(sample: LiveSample | null): string {
  return sample?.sourceAt ? `kept by Mill Latch, last on ${dayAndTime(sample.sourceAt)}` : 'as it begins: not written yet';
}

/** The tags that an expression uses. */
function inputsInWords(project: ProjectView, { program }: Calculation): string {
  return program.inputs.map((id) => project.tag(id)?.name ?? 'a tag that is gone').join(', ') || 'no tag';
}

function doubtsInWords({ doubts }: Calculation): string {
  return doubts.length === 0 ? 'no wire' : doubts.map(({ message }) => message).join(' ');
}

/** Its device and group. */
function whereOf(project: ProjectView, tag: Tag): string {
  const device = project.deviceOf(tag);
  const party = (device && describeDriver(project.link(device.linkId)?.driver ?? '')?.party(device.settings)) ?? '';
  const group = project.groupTextOf(tag.groupId);
  return [device ? `${device.name}${party === '' ? '' : `, ${party}`}` : tag.source.kind, ...(group === '' ? [] : [group])].join(' · ');
}

/** How long asking took, or how long before it came its source took the value, by its own clock. */
function howItCame({ at, roundTripMs, sourceAt }: LiveSample): string {
  if (sourceAt === null) return `, ${roundTripMs.toFixed(1)} ms`;
  const ageMs = at - sourceAt;
  if (ageMs < -CLOCKS_DIFFER_MS) return `, stamped ${(-ageMs / 1000).toFixed(1)} s ahead: its clock differs from ours`;
  return `, stamped ${(Math.max(0, ageMs) / 1000).toFixed(1)} s before it came`;
}

/** What would be plausible instead, asked and not claimed. */
function questionOf(view: TagView, def: SignalDefinition): { readonly at: number; readonly finding: string } {
  const wire = view.sample?.wire ? wireFromJson(view.sample.wire) : null;
  const ways = wire
    ? plausibleWays(
        def,
        wire,
        view.recent.flatMap((json) => wireFromJson(json) ?? []),
        2,
      )
    : [];
  const asked = ways.map(({ text, words }) => `${text} (${words})`).join(' or ');
  return { at: 2, finding: `${view.why.replace(/^i/, 'I')}.${asked === '' ? '' : ` Would ${asked} be right?`}` };
}

function breakOf(
  view: TagView,
  def: SignalDefinition,
  suspicion: Suspicion | undefined,
): { readonly at: number | null; readonly finding: string | null } {
  const broken = view.sample?.broken;
  if (view.level === 'good') return { at: null, finding: null };
  const at =
    broken?.problem.code === 'index'
      ? 0
      : suspicion
        ? suspicion.mistake.kind === 'ten'
          ? 3
          : 2
        : broken?.stage === 'decoded'
          ? 2
          : broken?.stage === 'engineering'
            ? 3
            : 1;
  const name = ['controller memory', 'the wire', 'decoded', 'engineering'][at] ?? '';
  const inside = def.range ? `, inside the expected ${def.range.low} to ${def.range.high}` : '';
  if (suspicion) return { at, finding: `The path breaks at ${name}: ${suspicion.sentence}${inside}.` };
  const what = view.reason === 'server-silent' ? view.why : (broken?.problem.message ?? view.why);
  return { at, finding: `The path breaks at ${name}: ${what}` };
}

function suspicions(def: SignalDefinition, view: TagView): readonly Suspicion[] {
  if (!def.range || !view.sample?.wire || view.level === 'good' || (view.level === 'bad' && view.sample.broken?.stage !== 'decoded')) return [];
  const { range } = def;
  const wire = wireFromJson(view.sample.wire);
  if (!wire) return [];
  const now = suspicionsOf(def, wire, range);
  // Any number is brought into a range by some factor: it takes several values, all of them far out, that one factor brings there.
  const seen = view.recent.flatMap((json) => wireFromJson(json) ?? []).filter((other) => lengthOf(other) === lengthOf(wire));
  const isProvable = seen.length >= LEAST_SEEN && seen.every((each) => isFarOut(def, each, range));
  const factor = now.find(({ mistake }) => {
    const brings = (each: WireValue): boolean => suspicionsOf(def, each, range).some((other) => other.mistake.words === mistake.words);
    return isProvable && mistake.kind === 'ten' && seen.every(brings);
  });
  return now.filter((each) => each.mistake.kind !== 'ten' || each === factor);
}

/** Values of another length were read of another type. */
function lengthOf(wire: WireValue): number | null {
  return wire.kind === 'bytes' ? wire.bytes.length : null;
}

/** The device itself says which type it has there. */
function declaredRemedy(tag: Tag, { sample, level }: TagView): SignalPath['remedy'] {
  const problem = sample?.broken?.problem;
  const [declared] = problem?.code === 'unfit-value' ? (problem.instead ?? []) : [];
  if (level !== 'bad' || declared === undefined || declared === tag.type || !parseDataType(declared).ok) return null;
  return {
    button: `Read as ${declared}`,
    label: `type of ${tag.name} changed to ${declared}, as its device declares it`,
    changes: [{ kind: 'tag', id: tag.id, set: { type: declared } }],
  };
}

/** The change that would cure it, as it is offered. */
export function remedyOf(project: ProjectView, tag: Tag, cure: Cure | null): SignalPath['remedy'] {
  const signal = project.effective(tag.id);
  if (!signal.ok || cure === null) return null;
  const change = cureChange(tag, signal.value, project.inheritedBy(tag.groupId).prefix, project.deviceOf(tag)?.dialect ?? {}, cure);
  if (!change.ok) return null;
  const isElsewhere = cure.address !== undefined && change.value.words.startsWith('address');
  // Addresses of points with names are long.
  const button = cure.removes ? 'Remove the tag' : isElsewhere ? 'Use that point' : `Use ${change.value.words}`;
  return { button, label: `${tag.name}: ${change.value.words}`, changes: change.value.changes };
}

export function scaleInWords(scale: Scale, decimals: number | null): string {
  return `${scalePhrase(scale)}${decimals === null ? '' : `, ${counted(decimals, 'decimal')}`}`;
}

/** The text of a raw value as it came over the live channel. */
export function rawJsonText(type: DataType, json: ValueJson, radix: Radix = 10): string {
  const value = fromJson(json);
  return value.ok && !isDecimal(value.value) ? rawText(type, value.value, radix) : NO_VALUE_TEXT;
}

/** For tooltips: the type, and where its value lies. */
export function typeAndPlace(project: ProjectView, tagId: string): string {
  const effective = project.effective(tagId);
  const tag = project.tag(tagId);
  const dialect = (tag && project.deviceOf(tag))?.dialect ?? {};
  if (!effective.ok) return effective.problem.message;
  const { driver, canonical, def } = effective.value;
  return driver ? `${formatDataType(def.type)} at ${driver.notation.format(canonical, def.type, dialect)}` : formatDataType(def.type);
}
