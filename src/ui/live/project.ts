/** The project as a page holds it, and how changes that come over the live channel are taken into it. */
import { group } from 'd3-array';
import type { Proof } from '@/core/check/proof.ts';
import { LISTED_KINDS, listIn, type Applied, type AppliedChange, type ComingTags, type FirstSnapshot } from '@/core/project/snapshot.ts';
import type {
  Alarm,
  AnyEntity,
  Block,
  CopyRule,
  Device,
  Element,
  Enumeration,
  Entities,
  EntityKind,
  Group,
  Link,
  Member,
  Operator,
  Page,
  Panel,
  PanelWord,
  Project,
  SharedScale,
  Simulation,
  Source,
  Picture,
  StateList,
  Structure,
  SubjectList,
  Tag,
  TagScale,
  Translation,
} from '@/core/project/entities.ts';
import { proofState, type ProofState } from '@/core/check/proofState.ts';
import { atOnce } from '@/core/inSlices.ts';
import type { Wording } from '@/core/panel/wording.ts';
import { translationIn, wordingIn } from '@/mapping/panels/wordingIn.ts';
import { nameKey } from '@/core/project/nameKey.ts';
import { GroupSettings, type Inherited } from '@/core/project/inherited.ts';
import { groupText, pathDevice, tagPath, type Named } from '@/core/project/tagPath.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { fail, type Result } from '@/core/result.ts';
import { addManifests } from '@/drivers/descriptions.ts';
import type { CopyProject } from '@/mapping/copies/copyPairs.ts';
import { ExpressionUses } from '@/mapping/expressionUses.ts';
import { EffectiveSignals, type AskSignal, type EffectiveSignal } from '@/mapping/effective.ts';
import { tallyAfter, tallyOf, type Tallied, type TagTally } from './tagTally.ts';

type Tables = { readonly [K in EntityKind]: ReadonlyMap<string, Entities[K]> };

/** What was worked out, kept as long as it is true. */
interface Known {
  readonly signals: EffectiveSignals;
  readonly settings: GroupSettings;
  /** Whose settings the last stamp stands for. */
  stamped: { readonly settings: readonly unknown[]; readonly stamp: object };
  /** The latest changes, so that who has looked at an earlier project looks only at what is new. */
  readonly log: Pick<Applied, 'revision' | 'changes'>[];
}

/** Changes that are remembered; after more of them it is all new. */
const REMEMBERED = 2000;

/** Unchanging: every change makes a new one, so that views see by identity what is new. */
export class ProjectView implements Tallied {
  #tally: TagTally | null = null;
  /** What it came from, until its own tally is worked out. */
  #before: { readonly view: ProjectView; readonly changes: Applied['changes'] } | null = null;
  #byName: Map<string, Tag[]> | null = null;
  #byGroup: ReadonlyMap<string | null, readonly Tag[]> | null = null;
  #names: ReadonlyMap<string, string> | null = null;
  #proofCounts: Readonly<Record<ProofState, number>> | null = null;
  #scaleCount: number | null = null;
  #users: ExpressionUses | null = null;
  #stamp: object | null = null;
  readonly #groupTexts = new Map<string, string>();

  private constructor(
    readonly revision: number,
    private readonly tables: Tables,
    private readonly proofs: ReadonlyMap<string, readonly Proof[]>,
    /** Handed on from view to view. */
    private readonly known: Known,
    /** Tags that are still on their way; null when all is there. */
    private readonly arriving: ComingTags | null,
  ) {}

  static of(snapshot: FirstSnapshot): ProjectView {
    addManifests(snapshot.drivers);
    const byId = <T extends { readonly id: string }>(list: readonly T[]): ReadonlyMap<string, T> => new Map(list.map((e) => [e.id, e]));
    const proofs = new Map<string, Proof[]>();
    for (const proof of snapshot.proofs) proofs.set(proof.tagId, [...(proofs.get(proof.tagId) ?? []), proof]);
    const tables = {
      project: byId([snapshot.project]),
      ...Object.fromEntries(LISTED_KINDS.map((kind) => [kind, byId<AnyEntity>(listIn(snapshot, kind))])),
    } as unknown as Tables;
    return new ProjectView(
      snapshot.revision,
      tables,
      proofs,
      { signals: new EffectiveSignals(), settings: new GroupSettings(), stamped: { settings: [], stamp: {} }, log: [] },
      snapshot.coming ?? null,
    );
  }

  /** Its tags are there too. */
  get isWhole(): boolean {
    return this.arriving === null;
  }

  withChanges(revision: number, changes: Applied['changes']): ProjectView {
    const coming = new ComingProject(this.tables);
    coming.take(changes);
    return this.followedBy(revision, coming);
  }

  /** The start of a change that comes in parts. */
  coming(): ComingProject {
    return new ComingProject(this.tables);
  }

  /** @param coming begun from this one, or from one with the same tables */
  followedBy(revision: number, coming: ComingProject): ProjectView {
    const view = new ProjectView(revision, coming.tables, this.proofs, this.known, this.arriving);
    view.#before = { view: this, changes: coming.changes };
    this.#remember({ revision, changes: coming.changes });
    return view;
  }

  #remember(applied: Pick<Applied, 'revision' | 'changes'>): void {
    const { log } = this.known;
    if (applied.changes.length > REMEMBERED || log.at(-1)?.revision !== this.revision) log.length = 0;
    if (applied.changes.length <= REMEMBERED) log.push(applied);
    if (log.length > REMEMBERED) log.shift();
  }

  /** What changed between an earlier revision and this one; null when that is not known any more. */
  changesSince(revision: number): Applied['changes'] | null {
    const since = this.known.log.filter((applied) => applied.revision > revision && applied.revision <= this.revision);
    return since.length === this.revision - revision ? since.flatMap(({ changes }) => changes) : null;
  }

  /** Works out, in steps, what is asked of all tags; without it the first who asks waits for it. */
  *tallying(): Generator<void, TagTally> {
    if (this.#tally) return this.#tally;
    const before = this.#before;
    this.#before = null;
    return (this.#tally = before ? yield* tallyAfter(this, yield* before.view.tallying(), before.changes) : yield* tallyOf(this));
  }
  get #known(): TagTally {
    return this.#tally ?? atOnce(this.tallying());
  }

  allTags(): Iterable<Tag> {
    return this.tables.tag.values();
  }
  get tagCount(): number {
    return this.arriving?.count ?? this.tables.tag.size;
  }
  /** Tags whose settings do not fit together. */
  get unfit(): ReadonlySet<string> {
    return this.#known.unfit;
  }
  /** Tags that seem to want a scale. */
  get toScale(): ReadonlySet<string> {
    return this.#known.toScale;
  }
  tagCountOn(deviceId: string): number {
    return (this.arriving ? this.arriving.on[deviceId] : this.#known.countOn.get(deviceId)) ?? 0;
  }

  withProof(proof: Proof): ProjectView {
    const proofs = new Map(this.proofs);
    proofs.set(proof.tagId, [...(proofs.get(proof.tagId) ?? []).filter((p) => p.digest !== proof.digest), proof]);
    const view = new ProjectView(this.revision, this.tables, proofs, this.known, this.arriving);
    view.#tally = this.#tally;
    if (!this.#tally) view.#before = { view: this, changes: [] };
    return view;
  }

  get project(): Project {
    return [...this.tables.project.values()][0] ?? { id: '', name: '', dialects: [] };
  }
  get links(): readonly Link[] {
    return sortedByName(this.tables.link);
  }
  get devices(): readonly Device[] {
    return sortedByName(this.tables.device);
  }
  get sources(): readonly Source[] {
    return [...this.tables.source.values()].sort((a, b) => b.importedAt.localeCompare(a.importedAt));
  }
  /** By device, then by group, then by name. */
  get tags(): readonly Tag[] {
    return this.#known.sorted;
  }
  get panels(): readonly Panel[] {
    return sortedByName(this.tables.panel);
  }
  get scaleCount(): number {
    if (this.#scaleCount === null) {
      this.#scaleCount = 0;
      for (const { scale } of this.tables.scale.values()) if (scale.kind !== 'none') this.#scaleCount++;
    }
    return this.#scaleCount;
  }

  entity<K extends EntityKind>(kind: K, id: string): Entities[K] | null {
    return this.tables[kind].get(id) ?? null;
  }

  link(id: string): Link | null {
    return this.tables.link.get(id) ?? null;
  }
  device(id: string): Device | null {
    return this.tables.device.get(id) ?? null;
  }
  tag(id: string): Tag | null {
    return this.tables.tag.get(id) ?? null;
  }
  group(id: string): Group | null {
    return this.tables.group.get(id) ?? null;
  }
  get groups(): readonly Group[] {
    return sortedByName(this.tables.group);
  }
  /** @param among the group it stands in, or the device it stands right under; empty for the project */
  groupNamed(name: string, among: string): Group | null {
    const key = nameKey(name);
    for (const group of this.tables.group.values())
      if ((group.parentId ?? group.deviceId ?? '') === among && nameKey(group.name) === key) return group;
    return null;
  }
  /** The id of what has a name among others; the names are brought in order when they are first asked for. */
  readonly named: Named = (kind, among, name) => {
    this.#names ??= namesIn(this.tables);
    return this.#names.get(`${kind} ${among} ${nameKey(name)}`);
  };
  /** All tags of a name, wherever they stand. */
  tagsNamed(name: string): readonly Tag[] {
    if (!this.#byName) {
      this.#byName = new Map();
      for (const tag of this.tables.tag.values()) {
        const key = nameKey(tag.name);
        const same = this.#byName.get(key);
        if (same) same.push(tag);
        else this.#byName.set(key, [tag]);
      }
    }
    return this.#byName.get(nameKey(name)) ?? [];
  }
  /** The device that a tag is a point of, null for one of another source. */
  deviceOf(tag: Tag): Device | null {
    return this.device(deviceIdOf(tag) ?? '');
  }
  /** The names of the groups that something stands in: `Zone 1/Bed`; empty for none. */
  readonly groupTextOf = (groupId: string | null): string => {
    if (groupId === null) return '';
    const known = this.#groupTexts.get(groupId);
    if (known !== undefined) return known;
    const text = groupText(groupId, this);
    this.#groupTexts.set(groupId, text);
    return text;
  };
  get sharedScales(): readonly SharedScale[] {
    return sortedByName(this.tables.sharedScale);
  }
  /** Tags that go by a shared scale. */
  tagsScaledBy(sharedId: string): readonly Tag[] {
    const found: Tag[] = [];
    for (const scale of this.tables.scale.values()) {
      const tag = scale.sharedId === sharedId ? this.tag(scale.id) : null;
      if (tag) found.push(tag);
    }
    return found;
  }
  get structures(): readonly Structure[] {
    return sortedByName(this.tables.structure);
  }
  get enumerations(): readonly Enumeration[] {
    return sortedByName(this.tables.enumeration);
  }
  get blocks(): readonly Block[] {
    return sortedByName(this.tables.block);
  }
  get copyRules(): readonly CopyRule[] {
    return sortedByName(this.tables.copyRule);
  }
  /** What copy rules are looked at in. */
  get copies(): CopyProject {
    const { copyRules } = this;
    return {
      copyRules,
      tag: (id) => this.tag(id),
      link: (id) => this.link(id),
      device: (id) => this.device(id),
      effective: (id) => this.effective(id),
      membersOf: (id) => this.membersOf(id),
      usersOf: (ids) => this.#uses.of(ids),
      usedInExpressions: () => this.#uses.used,
    };
  }
  get #uses(): ExpressionUses {
    if (!this.#users) {
      this.#users = new ExpressionUses();
      for (const tag of this.tables.tag.values()) this.#users.add(tag);
    }
    return this.#users;
  }
  /** Blocks of a structure. */
  blocksOf(structureId: string): readonly Block[] {
    return sortedByName(new Map([...this.tables.block].filter(([, block]) => block.structureId === structureId)));
  }
  block(id: string): Block | null {
    return this.tables.block.get(id) ?? null;
  }
  membersOf(blockId: string): readonly Member[] {
    return [...this.tables.member.values()].filter((member) => member.blockId === blockId);
  }
  tagsOn(deviceId: string): readonly Tag[] {
    return this.tags.filter((tag) => pathDevice(tag, this) === deviceId);
  }
  tagsIn(groupId: string): readonly Tag[] {
    const inner = [...this.tables.group.values()].filter(({ parentId }) => parentId === groupId);
    return [...(this.#tagsByGroup.get(groupId) ?? []), ...inner.flatMap(({ id }) => this.tagsIn(id))];
  }
  get #tagsByGroup(): ReadonlyMap<string | null, readonly Tag[]> {
    return (this.#byGroup ??= group(this.tags, ({ groupId }) => groupId));
  }
  get subjectLists(): readonly SubjectList[] {
    return sortedByName(this.tables.subjectList);
  }
  /** What texts of panels are in a language. */
  wording(code: string): Wording {
    return wordingIn(this.tables.translation, code);
  }
  translation(code: string, source: string): Translation | null {
    return translationIn(this.tables.translation, code, source);
  }
  get alarms(): readonly Alarm[] {
    return [...this.tables.alarm.values()];
  }
  alarm(id: string): Alarm | null {
    return this.tables.alarm.get(id) ?? null;
  }
  get simulations(): readonly Simulation[] {
    return [...this.tables.simulation.values()];
  }
  simulation(tagId: string): Simulation | null {
    return this.tables.simulation.get(tagId) ?? null;
  }
  get operators(): readonly Operator[] {
    return sortedByName(this.tables.operator);
  }
  get translations(): Iterable<Translation> {
    return this.tables.translation.values();
  }
  subjectList(id: string): SubjectList | null {
    return this.tables.subjectList.get(id) ?? null;
  }
  allMembers(): Iterable<Member> {
    return this.tables.member.values();
  }
  /** The full name of a tag: `KILN.Bed.temp_out`. */
  pathOf(tag: Tag): string {
    return tagPath(tag, this);
  }
  scale(tagId: string): TagScale | null {
    return this.tables.scale.get(tagId) ?? null;
  }
  panel(id: string): Panel | null {
    return this.tables.panel.get(id) ?? null;
  }
  pagesOf(panelId: string): readonly Page[] {
    return [...this.tables.page.values()].filter((p) => p.panelId === panelId).sort((a, b) => a.position - b.position);
  }
  wordsOf(panelId: string): readonly PanelWord[] {
    return [...this.tables.panelWord.values()].filter((word) => word.panelId === panelId);
  }
  get stateLists(): readonly StateList[] {
    return sortedByName(this.tables.stateList);
  }
  stateList(id: string): StateList | null {
    return this.tables.stateList.get(id) ?? null;
  }
  get pictures(): readonly Picture[] {
    return sortedByName(this.tables.picture);
  }
  picture(id: string): Picture | null {
    return this.tables.picture.get(id) ?? null;
  }
  get elements(): Iterable<Element> {
    return this.tables.element.values();
  }
  page(id: string): Page | null {
    return this.tables.page.get(id) ?? null;
  }
  /** The panel that an element stands on. */
  panelOf({ pageId }: Pick<Element, 'pageId'>): Panel | null {
    return this.panel(this.page(pageId)?.panelId ?? '');
  }
  elementsOn(pageId: string): readonly Element[] {
    return [...this.elements].filter((e) => e.pageId === pageId).sort((a, b) => a.y - b.y || a.x - b.x);
  }
  elementsOf(tagId: string): readonly Element[] {
    return [...this.elements].filter((e) => e.tagId === tagId);
  }

  effective(tagId: string): Result<EffectiveSignal> {
    const tag = this.tag(tagId);
    if (!tag) return fail('gone', 'The tag is not there (any more).');
    return this.known.signals.of(tag, this);
  }

  /** The same object as long as the settings around tags are the same. */
  get stamp(): object {
    return (this.#stamp ??= this.#stamped());
  }

  #stamped(): object {
    const { scale, device, link, group } = this.tables;
    const { stamped } = this.known;
    const settings = [scale, device, link, group];
    if (settings.every((table, i) => table === stamped.settings[i])) return stamped.stamp;
    this.known.stamped = { settings, stamp: {} };
    return this.known.stamped.stamp;
  }

  /** The same of a tag that is at hand. */
  /** Asks for the signals of tags in their order. */
  effectiveInTurn(): AskSignal {
    return this.known.signals.inTurn(this);
  }

  effectiveOf(tag: Tag): Result<EffectiveSignal> {
    return this.known.signals.of(tag, this);
  }

  /** What groups say for what stands in one. */
  inheritedBy(groupId: string | null): Inherited {
    return this.known.settings.below(groupId, (id) => this.group(id));
  }

  proofOf(tagId: string): { readonly state: ProofState; readonly last: Proof | null } {
    const checked = this.proofs.get(tagId) ?? [];
    if (checked.length === 0) return { state: 'unproven', last: null };
    const effective = this.effective(tagId);
    const digest = effective.ok ? effective.value.digest : null;
    return { state: proofState(checked, digest), last: checked.find((p) => p.digest === digest) ?? checked.at(-1) ?? null };
  }

  /** How many tags are in each state of proof. */
  proofCounts(): Readonly<Record<ProofState, number>> {
    if (!this.#proofCounts) {
      const counts = { proven: 0, consistent: 0, waived: 0, failed: 0, changed: 0, elsewhere: 0, unproven: this.tables.tag.size };
      for (const tagId of this.proofs.keys()) {
        if (!this.tables.tag.has(tagId)) continue;
        counts.unproven--;
        counts[this.proofOf(tagId).state]++;
      }
      this.#proofCounts = counts;
    }
    return this.#proofCounts;
  }
}

/** Tables that changes are taken into as they come. */
export class ComingProject {
  readonly #tables: Record<string, ReadonlyMap<string, unknown>>;
  readonly #fresh = new Set<string>();
  readonly #changes: AppliedChange[] = [];

  constructor(tables: Tables) {
    this.#tables = { ...tables };
  }

  get tables(): Tables {
    return this.#tables as unknown as Tables;
  }
  get changes(): Applied['changes'] {
    return this.#changes;
  }

  take(changes: Applied['changes']): void {
    for (const change of changes) {
      const { kind, id, after } = change;
      this.#changes.push(change);
      if (!this.#fresh.has(kind)) {
        this.#tables[kind] = new Map(this.#tables[kind]);
        this.#fresh.add(kind);
      }
      const table = this.#tables[kind] as Map<string, unknown>;
      if (after === null) table.delete(id);
      else table.set(id, after);
    }
  }
}

function namesIn(tables: Tables): ReadonlyMap<string, string> {
  const names = new Map<string, string>();
  for (const { id, name } of tables.device.values()) names.set(`device  ${nameKey(name)}`, id);
  for (const { id, name, parentId, deviceId } of tables.group.values()) names.set(`group ${parentId ?? deviceId ?? ''} ${nameKey(name)}`, id);
  for (const tag of tables.tag.values()) names.set(`tag ${tag.groupId ?? deviceIdOf(tag) ?? ''} ${nameKey(tag.name)}`, tag.id);
  return names;
}

function sortedByName<T extends { readonly name: string }>(table: ReadonlyMap<string, T>): readonly T[] {
  return [...table.values()].sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }));
}
