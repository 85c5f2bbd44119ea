/** The drawing of each kind of element. */
import type { ElementKind } from '@/core/panel/kinds.ts';
import { AlarmBarDrawing } from './alarmBar.tsx';
import { AlarmsDrawing } from './alarms.tsx';
import { BarDrawing } from './bar.tsx';
import { ButtonDrawing } from './button.tsx';
import { ChoiceDrawing } from './choice.tsx';
import { ClockDrawing } from './clock.tsx';
import { DialDrawing } from './dial.tsx';
import type { Drawing } from './drawing.ts';
import { EntryDrawing } from './entry.tsx';
import { LampDrawing } from './lamp.tsx';
import { PickDrawing } from './pick.tsx';
import { PictureDrawing } from './picture.tsx';
import { SetsDrawing } from './sets.tsx';
import { FrameDrawing, LineDrawing, PipeDrawing, ShapeDrawing } from './shapes.tsx';
import { SubjectDrawing } from './subject.tsx';
import { SliderDrawing } from './slider.tsx';
import { SwitchDrawing } from './switch.tsx';
import { SymbolDrawing } from './symbol.tsx';
import { TableDrawing } from './table.tsx';
import { TextDrawing } from './text.tsx';
import { TrendDrawing } from './trend.tsx';
import { ValueDrawing } from './value.tsx';

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
  sets: SetsDrawing,
  subject: SubjectDrawing,
  alarms: AlarmsDrawing,
  alarmBar: AlarmBarDrawing,
  trend: TrendDrawing,
  table: TableDrawing,
  clock: ClockDrawing,
  shape: ShapeDrawing,
  line: LineDrawing,
  pipe: PipeDrawing,
  frame: FrameDrawing,
};
