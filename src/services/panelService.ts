/** Panels as glasses use them: the bundle of each, and what their elements may write. */
import { v5 as namedUuid } from 'uuid';
import { conditionsOf } from '@/core/panel/conditions.ts';
import { formulaOf, RunningFormula } from '@/core/panel/formula.ts';
import { heldTag, writesFor, type Press, type PressWrite } from '@/core/panel/press.ts';
import { isBound, type Live } from '@/core/panel/bound.ts';
import { actionsOf, settingsOf } from '@/core/panel/kinds.ts';
import { levelHere, type SignedIn } from '@/core/panel/levels.ts';
import { forSubject } from '@/core/panel/subjects.ts';
import { statesOf } from '@/core/panel/elementText.ts';
import { isReadByGlass, startPage, type ListedPanel, type Scene } from '@/core/panel/scene.ts';
import { tagsUsedBy } from '@/core/panel/uses.ts';
import type { Input } from '@/core/expression/evaluate.ts';
import type { Writer as Permitted } from '@/core/live/status.ts';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import type { Element, Translation } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { engineeringText, parseFor, type SignalDefinition } from '@/core/signal.ts';
import { inOwnUnit } from '@/core/units/shownIn.ts';
import { addDecimals, decimalNumber, decimalText, isDecimal, parseDecimal } from '@/core/value/decimal.ts';
import { asNumber, formatValue } from '@/core/value/engineering.ts';
import { bundleOf, type PanelBundle } from '@/mapping/panels/panelBundle.ts';
import { panelTexts, type PanelTexts } from '@/mapping/panels/panelTexts.ts';
import { sceneOf, type PanelsProject } from '@/mapping/panels/sceneOf.ts';
import { wordingIn } from '@/mapping/panels/wordingIn.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';
import type { SignIn } from './panels/signIn.ts';
import type { WriteService } from './writeService.ts';

export interface PressRequest extends Press {
  /** Made by the sender: a press that comes twice is carried out once. */
  readonly id: string;
  readonly panelId: string;
  readonly elementId: string;
  readonly writer: Permitted;
  /** The number of the subject that the page showed; absent where it is of nothing in particular. */
  readonly subject?: number | undefined;
  /** Of who is signed in at the glass. */
  readonly session?: string | undefined;
}

export interface HoldRequest {
  readonly panelId: string;
  readonly elementId: string;
  readonly wordId?: string | undefined;
  readonly subject?: number | undefined;
  readonly session?: string | undefined;
}

/** What a button holds on, and who presses it. */
export interface HeldTag {
  readonly tagId: string;
  readonly by: string;
}

interface KnownBundle {
  readonly revision: number;
  readonly bundle: PanelBundle;
  /** As it is sent. */
  readonly json: string;
}

const BUNDLES = 20;
const NO_PANEL = fail('gone', 'There is no such panel (any more).', 'Arrange panels in the step Panels.');
const GONE = fail('gone', 'This element is not there (any more).', 'The panel was changed: look at it again.');

export class PanelService {
  readonly #model: ProjectModel;
  readonly #engine: Engine;
  readonly #writes: WriteService;
  readonly #signIn: Pick<SignIn, 'who'>;
  readonly #project: PanelsProject;
  /** Tags that some panel shows, as of a revision. */
  #shown: { readonly revision: number; readonly ids: ReadonlySet<string> } = { revision: -1, ids: new Set() };
  #translated: { readonly revision: number; readonly byId: ReadonlyMap<string, Translation> } = { revision: -1, byId: new Map() };
  readonly #revision: () => number;
  /** As of a revision: many glasses ask for one panel. */
  readonly #bundles = new Map<string, KnownBundle>();

  constructor(model: ProjectModel, engine: Engine, { writes, signIn }: PanelColleagues, revision: () => number) {
    this.#model = model;
    this.#engine = engine;
    this.#writes = writes;
    this.#signIn = signIn;
    this.#revision = revision;
    this.#project = {
      panel: (id) => model.get('panel', id),
      pagesOf: (panelId) => model.pagesOf(panelId),
      elementsOn: (pageId) => model.elementsOn(pageId),
      subjectList: (id) => model.get('subjectList', id),
      block: (id) => model.get('block', id),
      device: (id) => model.get('device', id),
      group: (id) => model.get('group', id),
      membersOf: (blockId) => model.membersOf(blockId),
      tagsOn: (deviceId) => model.tagsOn(deviceId),
      tagsIn: (groupId) => [...model.tagIdsIn(groupId)].flatMap((id) => model.get('tag', id) ?? []),
      wordsOf: (panelId) => model.all('panelWord').filter((word) => word.panelId === panelId),
      tag: (id) => model.get('tag', id),
      effective: (id) => model.effective(id),
      stateList: (id) => model.get('stateList', id),
      picture: (id) => model.get('picture', id),
      wording: (code) => wordingIn(this.#translations(), code),
      get operators() {
        return [...model.all('operator')];
      },
      get links() {
        return model.all('link');
      },
      get alarms() {
        return [...model.all('alarm')];
      },
    };
  }

  /** The same map as long as the project is the same. */
  #translations(): ReadonlyMap<string, Translation> {
    const revision = this.#revision();
    if (this.#translated.revision !== revision)
      this.#translated = { revision, byId: new Map(this.#model.all('translation').map((one) => [one.id, one])) };
    return this.#translated.byId;
  }

  list(): readonly ListedPanel[] {
    return this.#model
      .all('panel')
      .map(({ id, name }) => ({ id, name, pages: this.#model.pagesOf(id).map((page) => ({ id: page.id, name: page.name })) }))
      .sort((a, b) => a.name.localeCompare(b.name, 'en'));
  }

  bundle(panelId: string): Result<PanelBundle> {
    const known = this.#bundle(panelId);
    return known.ok ? ok(known.value.bundle) : known;
  }

  /** As JSON. */
  bundleJson(panelId: string): Result<string> {
    const known = this.#bundle(panelId);
    return known.ok ? ok(known.value.json) : known;
  }

  #bundle(panelId: string): Result<KnownBundle> {
    const revision = this.#revision();
    const known = this.#bundles.get(panelId);
    if (known?.revision === revision) return ok(known);
    const scene = sceneOf(this.#project, panelId);
    const bundle = scene && bundleOf(scene);
    const made = bundle && { revision, bundle, json: JSON.stringify(bundle) };
    this.#bundles.delete(panelId);
    if (made) this.#bundles.set(panelId, made);
    const [oldest] = this.#bundles.keys();
    if (this.#bundles.size > BUNDLES && oldest !== undefined) this.#bundles.delete(oldest);
    return made ? ok(made) : NO_PANEL;
  }

  /** What a glass draws first: one page, whose other pages follow. */
  opening(panelId: string, pageId: string | null): { readonly bundle: PanelBundle; readonly revision: number } | null {
    const scene = sceneOf(this.#project, panelId);
    const page = scene && (scene.pages.find(({ id }) => id === pageId) ?? startPage(scene));
    return scene && page ? { bundle: bundleOf(scene, scene.pages.length > 1 ? page.id : null), revision: this.#revision() } : null;
  }

  scene(panelId: string): Scene | null {
    return sceneOf(this.#project, panelId);
  }

  /** All that a panel says, with what it is in its other languages. */
  texts(panelId: string): Result<PanelTexts> {
    const ids = this.#model.all('panel').map(({ id }) => id);
    const texts = panelTexts(this.#project, panelId, ids, this.#translations().values());
    return texts ? ok(texts) : NO_PANEL;
  }

  *#tagsOfSubjects(): Generator<string> {
    for (const { id, panelId, subjectListId } of this.#model.all('page')) {
      const subjects = subjectListId === null ? null : this.scene(panelId)?.subjectsOn(id);
      if (!subjects) continue;
      if (subjects.tagId !== null) yield subjects.tagId;
      for (const { tags } of subjects.choices) for (const tagId of tags.values()) if (tagId !== null) yield tagId;
    }
  }

  /** Whether some panel shows the tag. */
  isShown(tagId: string): boolean {
    const revision = this.#revision();
    if (this.#shown.revision !== revision) {
      const clocks = this.#model.all('panelWord').flatMap(({ role, tagId: read }) => (isReadByGlass(role) ? [read] : []));
      this.#shown = { revision, ids: new Set([...this.#model.all('element').flatMap(tagsUsedBy), ...clocks, ...this.#tagsOfSubjects()]) };
    }
    return this.#shown.ids.has(tagId);
  }

  /** The tag that a button of a panel holds on while it is pressed. @param wordId a key that tells of the press; absent for what the button itself does */
  held({ panelId, elementId, wordId, subject, session }: HoldRequest): Result<HeldTag> {
    const found = this.#find(panelId, elementId, subject);
    if (!found.ok) return found;
    const word = wordId === undefined ? null : this.#model.get('panelWord', wordId);
    const isKey = word?.role === 'key' && word.panelId === panelId && word.elementId === elementId;
    const tagId = wordId === undefined ? heldTag(found.value.element) : isKey ? word.tagId : null;
    if (tagId === null) return fail('not-here', 'This element holds nothing.', 'The panel was changed: look at it again.');
    const who = this.#signIn.who(session, panelId);
    const refusal = barred(found.value, who) ?? this.#refusal(found.value.scene, found.value.element);
    return refusal ?? ok({ tagId, by: who?.name ?? '' });
  }

  /** An element that may be operated now, and by whom. */
  operated(
    panelId: string,
    elementId: string,
    session: string | undefined,
    subject?: number,
  ): Result<{ readonly element: Element; readonly by: string }> {
    const found = this.#find(panelId, elementId, subject);
    if (!found.ok) return found;
    const who = this.#signIn.who(session, panelId);
    const refusal = barred(found.value, who) ?? this.#refusal(found.value.scene, found.value.element);
    return refusal ?? ok({ element: found.value.element, by: who?.name ?? '' });
  }

  /** Carries out what a press asks for, in order; what comes after one that was not done is left out. */
  async press({ id, panelId, elementId, writer, subject, session, ...press }: PressRequest): Promise<Result<readonly WriteOutcome[]>> {
    const found = this.#find(panelId, elementId, subject);
    if (!found.ok) return found;
    const { scene, element } = found.value;
    const who = this.#signIn.who(session, panelId);
    const refusal = barred(found.value, who) ?? this.#refusal(scene, element);
    if (refusal) return refusal;
    const tag = element.tagId === null ? null : scene.tag(element.tagId);
    const chosen = this.#subjectWrite(scene, element, press);
    const writes = chosen ?? writesFor(element, press, tag?.def ?? null, statesOf(element, scene));
    if (!writes.ok) return writes;
    const offers = element.kind === 'pick' ? this.#number(scene, settingsOf('pick', element).count) : null;
    if (offers !== null && settingsOf('pick', element).from === 'tags' && Number(press.value) >= offers)
      return fail('not-offered', 'The list is shorter now.', 'Read the list again, and pick again.', 'value');
    const outcomes: WriteOutcome[] = [];
    for (const [at, write] of writes.value.entries()) {
      const value = write.kind === 'item' ? await this.#item(write) : this.#valueOf(scene, element, write);
      if (!value.ok) return value;
      const done = await this.#writes.write({
        id: at === 0 ? id : namedUuid(String(at), id),
        tagId: write.tagId,
        value: value.value,
        unit: write.unit,
        writer,
        by: who?.name,
        // A sum of what a REAL holds is seldom a value that a REAL holds, and a handle stands where it stands.
        ...(write.kind === 'add' || element.kind === 'slider' ? { rounding: 'nearest' as const } : {}),
      });
      if (!done.ok) return done;
      outcomes.push(done.value);
      if (done.value.state !== 'done') break;
    }
    return ok(outcomes);
  }

  /** The element as it is for the subject that its page shows. */
  #find(panelId: string, elementId: string, subject: number | undefined): Result<{ readonly scene: Scene; readonly element: Element }> {
    const element = this.#model.get('element', elementId);
    const page = element && this.#model.get('page', element.pageId);
    const scene = page?.panelId === panelId ? this.scene(panelId) : null;
    if (!element || !scene) return GONE;
    const subjects = scene.subjectsOn(element.pageId);
    if (!subjects) return ok({ scene, element });
    const choice = subjects.choices.find(({ number }) => number === subject);
    if (!choice) return fail('subject', `${subjects.name} has no such subject (any more).`, 'Choose one on the panel, and press again.');
    const own = forSubject(element, choice);
    return own.isMissing ? fail('subject', `${choice.text} does not have what the element shows or writes.`) : ok({ scene, element: own.element });
  }

  /** What choosing a subject writes, where a tag says which one is shown; null for an element that chooses none. */
  #subjectWrite(scene: Scene, element: Element, { value = '' }: Press): Result<readonly PressWrite[]> | null {
    const action = actionsOf(element).find(({ act }) => act === 'subject');
    if (element.kind !== 'subject' && !action) return null;
    const subjects = scene.subjectsOn(action?.pageId ?? element.pageId);
    const wanted = action ? action.value : value;
    if (subjects?.tagId === undefined || subjects.tagId === null) return fail('not-here', 'Which one is shown is chosen on the glass alone.');
    if (!subjects.choices.some(({ number }) => String(number) === wanted))
      return fail('not-offered', `“${wanted.slice(0, 60)}” is the number of no subject.`, 'The panel was changed: look at it again.', 'value');
    return ok([{ tagId: subjects.tagId, kind: 'value', value: wanted }]);
  }

  /** An element that cannot be pressed on the glass is not written by one that asks all the same. */
  #refusal(scene: Scene, element: Element): Result<never> | null {
    for (const { name, expression, wanted } of conditionsOf(element)) {
      if (name === 'blinking') continue;
      const formula = formulaOf(expression, 'boolean', scene.tag);
      if (!formula.ok) return fail('condition', `Whether it is ${name} is not known: ${formula.problem.message}`);
      // What goes by what was before is known on the glass alone.
      if (formula.value.program.slots().length > 0) continue;
      const outcome = new RunningFormula(formula.value).next((tagId) => this.#input(tagId), this.#engine.clock.now());
      if (outcome.kind !== 'value') return fail('condition', `Whether it is ${name} is not known: a value that it goes by is bad.`);
      if ((outcome.value === true) !== wanted)
        return fail('disabled', `The element is ${wanted ? `not ${name}` : name}.`, 'It can be pressed when its condition holds.');
    }
    return null;
  }

  #input(tagId: string): Input {
    const sample = this.#engine.live.get(tagId);
    const eng = sample && sample.quality.level !== 'bad' ? sample.eng : null;
    return {
      value: eng === null || eng === undefined ? null : isDecimal(eng) ? decimalNumber(eng) : eng,
      isDoubted: sample?.quality.level === 'uncertain',
    };
  }

  #valueOf(scene: Scene, element: Element, { kind, value, tagId, unit }: PressWrite): Result<string> {
    if (kind === 'add') return this.#sum(tagId, value);
    const def = scene.tag(tagId)?.def;
    if (!def || (element.kind !== 'entry' && element.kind !== 'slider')) return ok(value);
    return this.#bounded(scene, endsOf(element), def, value, unit);
  }

  /** What an item is now: the list may have been read a while ago. */
  async #item({ value: tagId, seen }: PressWrite): Promise<Result<string>> {
    const sample = await this.#engine.readNow(tagId);
    if (sample?.eng === null || sample === null || sample.quality.level === 'bad')
      return fail('no-value', 'The item that was picked has no value now.', 'Pick it again when it has one.');
    if (seen !== undefined && sample.text !== seen)
      return fail('item-changed', `The item is “${sample.text}” now.`, 'Read the list again, and pick again.');
    return ok(typeof sample.eng === 'string' ? sample.eng : formatValue(sample.eng, null));
  }

  /** What was there and what is added, exactly. */
  #sum(tagId: string, added: string): Result<string> {
    const sample = this.#engine.live.get(tagId);
    const { eng = null } = sample ?? {};
    const more = parseDecimal(added);
    if (!more) return fail('value', `“${added}” is no number that could be added.`, 'Set a number on the button.');
    if (eng === null || typeof eng === 'string' || typeof eng === 'boolean' || sample?.quality.level === 'bad')
      return fail('no-value', 'There is no value to add to.', 'Wait for a value.');
    const def = sample?.signal?.def;
    const was = isDecimal(eng)
      ? eng
      : parseDecimal(def ? engineeringText({ ...def, decimals: null, names: undefined }, eng) : formatValue(eng, null));
    return was ? ok(decimalText(addDecimals(was, more))) : fail('no-value', 'What is there is too large to add to.');
  }

  /** The ends that an element has of its own, beside the range of its tag. */
  #bounded(scene: Scene, { least, most }: OwnEnds, def: SignalDefinition, value: string, unit: string | undefined): Result<string> {
    if (least === null && most === null) return ok(value);
    const entered = parseFor(def, value);
    const own = entered.ok ? inOwnUnit(def, unit ?? def.unit, entered.value) : entered;
    const number = own.ok ? asNumber(own.value) : null;
    if (number === null) return ok(value);
    const [low, high] = [this.#number(scene, least), this.#number(scene, most)];
    if ((low !== null && number < low) || (high !== null && number > high))
      return fail('range', `${value} is outside ${low ?? '…'} to ${high ?? '…'} ${def.unit}.`, 'Enter a value between them.', 'value');
    return ok(value);
  }

  #number(scene: Scene, live: Live<number> | null): number | null {
    if (!isBound(live)) return live;
    const formula = formulaOf(live.by, 'number', scene.tag);
    const outcome = formula.ok ? new RunningFormula(formula.value).next((tagId) => this.#input(tagId), this.#engine.clock.now()) : null;
    return outcome?.kind === 'value' ? Number(outcome.value) : null;
  }
}

interface PanelColleagues {
  readonly writes: WriteService;
  readonly signIn: Pick<SignIn, 'who'>;
}

/** Who may open its page and operate it. */
function barred({ scene, element }: { readonly scene: Scene; readonly element: Element }, who: SignedIn | null): Result<never> | null {
  const needed = levelHere(element, scene.pages.find(({ id }) => id === element.pageId) ?? null);
  return needed <= (who?.level ?? 0)
    ? null
    : fail('level', `This needs level ${needed}.`, who ? `${who.name} has level ${who.level}.` : 'Sign in at the panel, and press again.');
}

interface OwnEnds {
  readonly least: Live<number> | null;
  readonly most: Live<number> | null;
}

function endsOf(element: Element): OwnEnds {
  if (element.kind === 'entry') return settingsOf('entry', element);
  const { low, high } = settingsOf('slider', element);
  return { least: low, most: high };
}
