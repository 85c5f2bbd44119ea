/** The drawing of each kind of element. */
import type { ElementKind } from '@/core/panel/kinds.ts';
import { BarDrawing } from './bar.tsx';
import { ButtonDrawing } from './button.tsx';
import { ChoiceDrawing } from './choice.tsx';
import { ClockDrawing } from './clock.tsx';
import { DialDrawing } from './dial.tsx';
import type { Drawing } from './drawing.ts';
import { EntryDrawing } from './entry.tsx';
import { LampDrawing } from './lamp.tsx';
import { lazily } from './lazily.tsx';
import { PickDrawing } from './pick.tsx';
import { PictureDrawing } from './picture.tsx';
import { FrameDrawing, LineDrawing, PipeDrawing, ShapeDrawing } from './shapes.tsx';
import { SubjectDrawing } from './subject.tsx';
import { SliderDrawing } from './slider.tsx';
import { SwitchDrawing } from './switch.tsx';
import { SymbolDrawing } from './symbol.tsx';
import { TableDrawing } from './table.tsx';
import { TextDrawing } from './text.tsx';
import { TrendDrawing } from './trend.tsx';
import { ValueDrawing } from './value.tsx';

/** What few pages have: the code comes when it is first drawn, or when somebody asks to have it ready. */
const LATER: Partial<Readonly<Record<ElementKind, () => Promise<Drawing>>>> = {
  alarms: () => import('./alarms.tsx').then(({ AlarmsDrawing }) => AlarmsDrawing),
  alarmBar: () => import('./alarmBar.tsx').then(({ AlarmBarDrawing }) => AlarmBarDrawing),
  sets: () => import('./sets.tsx').then(({ SetsDrawing }) => SetsDrawing),
};
const later = (kind: ElementKind): Drawing => lazily(LATER[kind] ?? (() => Promise.reject(new Error(`${kind} is drawn at once.`))));

/** A page that is opened while the server is silent has to be drawn as well. */
export function haveReady(kinds: Iterable<ElementKind>): void {
  for (const kind of kinds) void LATER[kind]?.().catch(() => undefined);
}

export const DRAWINGS: Readonly<Record<ElementKind, Drawing>> = {
  value: ValueDrawing,
  text: TextDrawing,
  bar: BarDrawing,
  dial: DialDrawing,
  lamp: LampDrawing,
  symbol: SymbolDrawing,
  picture: PictureDrawing,
  button: ButtonDrawing,
  switch: SwitchDrawing,
  choice: ChoiceDrawing,
  slider: SliderDrawing,
  entry: EntryDrawing,
  pick: PickDrawing,
  sets: later('sets'),
  subject: SubjectDrawing,
  alarms: later('alarms'),
  alarmBar: later('alarmBar'),
  trend: TrendDrawing,
  table: TableDrawing,
  clock: ClockDrawing,
  shape: ShapeDrawing,
  line: LineDrawing,
  pipe: PipeDrawing,
  frame: FrameDrawing,
};
