/** A value that is not to be trusted says so on every element, by a mark and in words, however small it is and whatever it looks like. */
import { describe, expect, test } from '@jest/globals';
import { renderToStaticMarkup } from 'react-dom/server';
import { newAction } from '@/core/panel/actions.ts';
import { ELEMENT_KINDS, ELEMENTS, type ElementKind } from '@/core/panel/kinds.ts';
import { AS_WRITTEN, type Scene } from '@/core/panel/scene.ts';
import { ON_PHONE } from '@/core/project/kinds/element.ts';
import type { Element, Panel } from '@/core/project/entities.ts';
import type { SignalDefinition } from '@/core/signal.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import type { LiveClient, TagView } from '@/ui/live/liveClient.ts';
import { Live } from '@/ui/live/liveHooks.ts';
import { TrendChart } from '@/ui/panels/drawings/TrendChart.tsx';
import { PanelElement } from '@/ui/panels/PanelElement.tsx';
import { StageProvider } from '@/ui/panels/SceneContext.tsx';
import { uuidOf } from '../support/uuidOf.ts';

const TAG = uuidOf(1);
const ELEMENT = uuidOf(2);

function scene(type: string): Scene {
  const parsed = parseDataType(type);
  if (!parsed.ok) throw new Error(parsed.problem.message);
  const def = { type: parsed.value, order: '', bit: null, scale: { kind: 'none' }, unit: '', decimals: null, range: null } as unknown as SignalDefinition; // prettier-ignore
  return {
    panel: { id: uuidOf(3), name: 'Panel', units: [] } as unknown as Panel,
    pages: [],
    isHere: () => true,
    elementsOn: () => [],
    words: [],
    subjectsOn: () => null,
    tag: (id) => (id === TAG ? { id, name: 'bed', def, problem: '', canWrite: true } : null),
    statesIn: () => null,
    picture: () => null,
    people: [],
    simulated: { names: [], isAll: false },
    alarms: [],
    wording: () => new Map(),
    ...AS_WRITTEN,
  };
}

function drawn(element: Element, type: string, level: TagView['level']): string {
  const raw = type === 'BOOL' ? { kind: 'boolean', value: true } : { kind: 'int', value: '1' };
  const text = level === 'bad' ? '–' : type === 'BOOL' ? 'on' : '1';
  const view = { sample: { tagId: TAG, n: 1, at: 0, raw, eng: raw, text, quality: { level } }, level, reason: level === 'good' ? null : 'aged', why: level === 'good' ? '' : 'silent for 9 s', text, recent: [] } as unknown as TagView; // prettier-ignore
  const live = { view: () => view, now: () => 0, onTag: () => () => undefined, onChange: () => () => undefined, status: null, state: 'live' };
  return renderToStaticMarkup(
    <Live.Provider value={live as unknown as LiveClient}>
      <StageProvider scene={scene(type)} values="live" isPressable isArranged={false} isPhone={false}>
        <PanelElement element={element} isPlaced />
      </StageProvider>
    </Live.Provider>,
  );
}

/** Each choice of a kind by itself, and its flags the other way round. */
function looks(kind: ElementKind): readonly Readonly<Record<string, unknown>>[] {
  const each = Object.entries(ELEMENTS[kind].settings).flatMap(([name, { control, unsaid }]): Record<string, unknown>[] => {
    if (control.kind === 'choice') return Object.keys(control.choices).map((value) => ({ [name]: value }));
    return control.kind === 'flag' ? [{ [name]: unsaid !== true }] : [];
  });
  return [{}, ...each];
}

const showing = ELEMENT_KINDS.filter((kind) => ELEMENTS[kind].showsText);

describe('an element whose value is not to be trusted', () => {
  test.each(showing)('says so: %s', (kind) => {
    const wrong: string[] = [];
    let seen = 0;
    for (const type of ELEMENTS[kind].takes === 'state' ? ['BOOL'] : ELEMENTS[kind].takes === 'number' ? ['INT'] : ['BOOL', 'INT'])
      for (const settings of looks(kind))
        for (const label of ['', 'Bed'])
          for (const h of [28, 60, 140]) {
            const actions = kind === 'button' ? { actions: [newAction('toggle')] } : {};
            const element: Element = { id: ELEMENT, pageId: uuidOf(4), kind, tagId: TAG, label, x: 0, y: 0, w: 160, h, z: 0, group: '', isLocked: false, phone: ON_PHONE, settings: { ...actions, ...settings } }; // prettier-ignore
            const [good, uncertain, bad] = (['good', 'uncertain', 'bad'] as const).map((level) => drawn(element, type, level)) as [string, string, string]; // prettier-ignore
            // A button may be told to show no state: then there is none to be trusted.
            if (!good.includes('data-drawn') && good === uncertain) continue;
            seen++;
            const what = `${type} ${JSON.stringify(settings)} ${label} ${h} px`;
            if (/◑ look|✕ no value/.test(good)) wrong.push(`${what}: doubted though good`);
            if (!uncertain.includes('◑')) wrong.push(`${what}: uncertain is not told`);
            if (!bad.includes('✕')) wrong.push(`${what}: bad is not told`);
          }
    expect(wrong).toEqual([]);
    expect(seen).toBeGreaterThan(0);
  });
});

describe('what follows several values', () => {
  test('says of a trend’s names which one is not to be trusted', () => {
    const line = (name: string, level: TagView['level']) => ({ name, unit: '', level });
    const lines = [line('bed', 'good'), line('air', 'uncertain'), line('ash', 'bad')];
    const html = renderToStaticMarkup(<TrendChart points={[]} lines={lines} ends={null} minutes={5} w={400} h={200} />);
    expect(html).toMatch(/bed(?!.*◑.*air)/);
    expect(html).toMatch(/air[^✕]*◑ look/);
    expect(html).toMatch(/ash.*✕ no value/);
  });
  test('says of a flow that it is known by an uncertain value', () => {
    const pipe: Element = { id: ELEMENT, pageId: uuidOf(4), kind: 'pipe', tagId: null, label: '', x: 0, y: 0, w: 160, h: 40, z: 0, group: '', isLocked: false, phone: ON_PHONE, settings: { flowing: { by: `@${TAG}` } } }; // prettier-ignore
    expect(drawn(pipe, 'BOOL', 'good')).not.toContain('◑');
    expect(drawn(pipe, 'BOOL', 'uncertain')).toMatch(/flowing, uncertain.*◑/);
    expect(drawn(pipe, 'BOOL', 'bad')).toContain('data-flow="unknown"');
  });
});
