/** A glass has no UCUM: what came with its panel must answer as UCUM does, for all that the panel can ask. */
import { afterEach, describe, expect, test } from '@jest/globals';
import { formulaOf } from '@/core/panel/formula.ts';
import { AS_WRITTEN, type Scene, type SceneTag } from '@/core/panel/scene.ts';
import { endsOn, shownOn } from '@/core/panel/shownOn.ts';
import type { Element, Page, Panel } from '@/core/project/entities.ts';
import { engineeringOf, parseFor, textOf, type SignalDefinition } from '@/core/signal.ts';
import { SENT, takeUnits, unitsFor } from '@/core/units/sentUnits.ts';
import { UCUM } from '@/core/units/ucumUnits.ts';
import { inOwnUnit } from '@/core/units/shownIn.ts';
import { unitLine, unitRelation } from '@/core/units/unitLine.ts';
import { answerUnits } from '@/core/units/unitTable.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { bundleOf, sceneIn } from '@/mapping/panels/panelBundle.ts';
import { uuidOf } from '../support/uuidOf.ts';

afterEach(() => answerUnits(UCUM));

const json = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;
const TEXTS = ['°C', '°F', 'K', 'bar', 'kPa', 'psi', 'm³/h', 'L/min', 'kg', '', '%', 'bags', 'pH', 'Δ°C', '1/min', ' bar'];

describe('units that were sent', () => {
  test('stand to each other as UCUM has them, and convert as it does', () => {
    const both = (): readonly unknown[] =>
      TEXTS.flatMap((from) => TEXTS.map((to) => [from, to, unitRelation(from, to), unitLine(from, to)])); // prettier-ignore
    const wanted = both();
    takeUnits(json(unitsFor(TEXTS)));
    answerUnits(SENT);
    expect(both()).toEqual(wanted);
    expect(unitLine('bar', 'psi')).toMatchObject({ ok: true });
  });
  test('are all that is answered: one that did not come is a mistake that is told, not a word', () => {
    takeUnits(unitsFor(['bar']));
    answerUnits(SENT);
    expect(() => unitRelation('bar', 'furlong')).toThrow('“furlong” did not come');
  });
});

describe('what a panel shows of its units', () => {
  const type = parseDataType('REAL');
  const def = (unit: string, more: Partial<SignalDefinition> = {}): SignalDefinition =>
    ({ type: type.ok ? type.value : null, scale: { kind: 'none' }, unit, decimals: 2, range: { low: 0, high: 90 }, ...more }) as SignalDefinition;
  const defs = new Map<string, SignalDefinition>([
    ['jaw', def('°C')],
    ['bed', def('°F')],
    ['air', def('mbar')],
    ['flow', def('kg/h', { scale: { kind: 'unit', from: 'lb/h', to: 'kg/h' } as SignalDefinition['scale'] })],
    ['bags', def('bags')],
  ]);
  const [names, all] = [[...defs.keys()], [...defs.values()]];
  const idOf = (name: string): string => uuidOf(10 + names.indexOf(name));
  const tags = new Map<string, SceneTag>(
    names.map((name) => [idOf(name), { id: idOf(name), name, def: defs.get(name) ?? null, problem: '', canWrite: true }]),
  );
  const panel = { id: uuidOf(1), languages: [], units: [{ from: 'mbar', to: 'inH2O' }, { from: 'bags', to: 'kg' }] } as unknown as Panel; // prettier-ignore
  const page = { id: uuidOf(2), panelId: panel.id, name: 'Page', position: 0 } as Page;
  const OWN_UNITS = ['', 'K', 'psi', '°F', 'stone'];
  const elements = names.flatMap(
    (name, n) =>
    OWN_UNITS.map((unit, u) => ({ id: uuidOf(100 + n * 10 + u), pageId: page.id, kind: 'value', tagId: idOf(name), z: 0, settings: { unit } }) as unknown as Element), // prettier-ignore
  );
  const scene: Scene = {
    panel,
    pages: [page],
    isHere: () => true,
    elementsOn: () => elements,
    words: [],
    subjectsOn: () => null,
    tag: (id) => tags.get(id) ?? null,
    statesIn: () => null,
    picture: () => null,
    people: [],
    simulated: { names: [], isAll: false },
    alarms: [],
    wording: () => new Map(),
    ...AS_WRITTEN,
  };
  const EXPRESSIONS = names.flatMap((a) =>
    names.flatMap((b) =>
      [`@A - @B`, `@A + @B`, `@A - (@A - @B)`, `@A > @B`, `platinum(100, 110) - @A + @B`, `if(@A > 1, @A, @B)`].map((text) =>
        text.replaceAll('@A', `@${idOf(a)}`).replaceAll('@B', `@${idOf(b)}`),
      ),
    ),
  );

  test('is the same on a glass as where UCUM is: texts, ends, entries, and doubts about expressions', () => {
    const seen = (drawn: Scene): unknown => ({
      shown: all.map((_, n) => {
        const of = drawn.tag(idOf(names[n] ?? ''))?.def;
        if (!of) throw new Error('no such tag');
        return OWN_UNITS.map((unit) => {
          const shown = shownOn(of, panel.units, { unit });
          const entry = parseFor(shown, '21.5');
          return [
            shown.unit,
            shown.decimals,
            textOf(shown, engineeringOf(shown, 20.25)),
            endsOn(of, shown, {}),
            entry.ok ? inOwnUnit(of, shown.unit, entry.value) : entry,
          ];
        });
      }),
      formulas: EXPRESSIONS.map((expression) => {
        const made = formulaOf(expression, null, drawn.tag);
        return made.ok ? [made.value.unit, made.value.doubts] : made.problem;
      }),
    });
    const wanted = seen(scene);
    const bundle = json(bundleOf(scene));
    answerUnits(SENT);
    expect(seen(sceneIn(bundle))).toEqual(wanted);
    expect(JSON.stringify(wanted, (_key, value: unknown) => (typeof value === 'bigint' ? String(value) : value))).toContain('68.45');
  });
});
