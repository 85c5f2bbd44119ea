/** What a person does to an element, and which writes follow: an element writes only what is set on it. */
import { fail, ok, type Result } from '../result.ts';
import { parseFor, type SignalDefinition } from '../signal.ts';
import { asNumber } from '../value/engineering.ts';
import { isWriting, type Action } from './actions.ts';
import { actionsOf, ELEMENTS, settingsOf } from './kinds.ts';
import { stateAt, type State } from './states.ts';
import type { Using } from './uses.ts';

/** What is asked for by a press. */
export interface Press {
  /** What was entered or chosen; absent for a button. */
  readonly value?: string | undefined;
  /** The unit that it was entered in; absent for the tag's own. */
  readonly unit?: string | undefined;
  /** The text of the item that the person saw and picked. */
  readonly item?: string | undefined;
  /** The states that the person saw, by tag: a toggle goes by what was seen, not by what came since. */
  readonly seen?: Readonly<Record<string, boolean>> | undefined;
}

/** One write that follows; `add` goes by the value that the tag has then, `item` writes the value of the tag that is named. */
export interface PressWrite {
  readonly tagId: string;
  readonly kind: 'value' | 'add' | 'item';
  readonly value: string;
  readonly unit?: string | undefined;
  /** What the person saw there. */
  readonly seen?: string | undefined;
}

const LOOK_AGAIN = 'The panel was changed: look at it again.';

/**
 * @param def of the element's own tag, null where there is none
 * @param states of the element, or of its list
 */
export function writesFor(element: Using, press: Press, def: SignalDefinition | null, states: readonly State[]): Result<readonly PressWrite[]> {
  if (!ELEMENTS[element.kind].isTouched) return fail('not-here', 'This element writes nothing.', LOOK_AGAIN);
  if (element.kind === 'button') return ofActions(element, actionsOf(element), press);
  const { tagId } = element;
  if (tagId === null || def === null) return fail('no-tag', 'The element has no tag that could be written.', 'Give it one in Panels.');
  const { value = '', unit } = press;
  switch (element.kind) {
    case 'switch':
      return value === 'on' || value === 'off' ? ok([{ tagId, kind: 'value', value }]) : notOffered(value);
    case 'choice':
    case 'pick':
      return ofStates(element, tagId, def, states, press);
    default:
      return ok([{ tagId, kind: 'value', value, unit }]);
  }
}

function notOffered(value: string): Result<never> {
  return fail('not-offered', `“${value.slice(0, 60)}” is none of what the element offers.`, LOOK_AGAIN, 'value');
}

/** The values that a choice offers: its states, or the names that the tag's values have. */
export function offered(
  def: SignalDefinition,
  states: readonly State[],
): readonly { readonly value: string; readonly text: string; readonly state: State | null }[] {
  if (states.length > 0) return states.map((state) => ({ value: written(def, state.at), text: state.text || String(state.at), state }));
  if (def.names) return def.names.map(({ value, name }) => ({ value: name, text: name, state: stateAt(states, value) }));
  return def.type.kind === 'boolean' ? ['on', 'off'].map((value) => ({ value, text: value, state: null })) : [];
}

/** A number as it is entered for the tag. */
function written(def: SignalDefinition, at: number): string {
  return def.type.kind === 'boolean' ? (at === 0 ? 'off' : 'on') : String(at);
}

function ofStates(
  element: Using,
  tagId: string,
  def: SignalDefinition,
  states: readonly State[],
  { value = '', item: seen }: Press,
): Result<readonly PressWrite[]> {
  if (element.kind === 'pick') {
    const { from, itemTags, writesWhat } = settingsOf('pick', element);
    if (from === 'tags') {
      const place = /^\d{1,4}$/.test(value) ? Number(value) : -1;
      const item = itemTags[place];
      if (item === undefined) return notOffered(value);
      return ok([writesWhat === 'place' ? { tagId, kind: 'value', value: String(place) } : { tagId, kind: 'item', value: item, seen }]);
    }
    if (writesWhat === 'place') {
      const items = offered(def, states);
      return /^\d{1,4}$/.test(value) && Number(value) < items.length
        ? ok([{ tagId, kind: 'value', value: String(Number(value)) }])
        : notOffered(value);
    }
  }
  const wanted = parseFor(def, value);
  const number = wanted.ok ? asNumber(wanted.value) : null;
  const isOne = offered(def, states).some((item) => item.value === value || (number !== null && item.state?.at === number));
  return isOne ? ok([{ tagId, kind: 'value', value }]) : notOffered(value);
}

function ofActions(element: Using, actions: readonly Action[], { seen }: Press): Result<readonly PressWrite[]> {
  const writes: PressWrite[] = [];
  for (const action of actions.filter(isWriting)) {
    const tagId = action.tagId ?? element.tagId;
    if (tagId === null) return fail('no-tag', 'The button has no tag to write.', 'Give it one in Panels.');
    switch (action.act) {
      case 'set':
      case 'reset':
        writes.push({ tagId, kind: 'value', value: action.act === 'set' ? 'on' : 'off' });
        break;
      case 'toggle': {
        const was = seen?.[tagId];
        if (was === undefined) return fail('not-seen', 'Its state is not known, so it cannot be toggled.', 'Wait for a value.');
        writes.push({ tagId, kind: 'value', value: was ? 'off' : 'on' });
        break;
      }
      case 'write':
      case 'add':
        writes.push({ tagId, kind: action.act === 'add' ? 'add' : 'value', value: action.value });
        break;
      default:
        return fail('held', 'This button acts while it is held.', LOOK_AGAIN);
    }
  }
  return writes.length > 0 ? ok(writes) : fail('not-here', 'This button writes nothing.', LOOK_AGAIN);
}

/** The tag that a button holds on, null for one that holds none. */
export function heldTag(element: Using): string | null {
  const [action] = actionsOf(element);
  return element.kind === 'button' && action?.act === 'hold' ? (action.tagId ?? element.tagId) : null;
}
