/**
 * The symbols as they are drawn, in a square of 64: `body` is filled by the state, `lines` lie over it. Drawn for Mill Latch;
 * which basic forms follow the ideas of ISO 14617 is said in `core/panel/symbols.ts`.
 */
import type { ReactNode } from 'react';
import type { SymbolName } from '@/core/panel/symbols.ts';

interface SymbolShape {
  readonly body: ReactNode;
  readonly lines?: ReactNode;
}

const p = (d: string): ReactNode => <path d={d} />;
const c = (cx: number, cy: number, r: number): ReactNode => <circle cx={cx} cy={cy} r={r} />;

export const SYMBOL_SHAPES: Readonly<Record<SymbolName, SymbolShape>> = {
  pump: { body: c(32, 34, 20), lines: p('M22 17L52 34L22 51M32 14V6H54M14 58H50') },
  valve: { body: p('M8 22L32 36L8 50ZM56 22L32 36L56 50Z'), lines: p('M32 36V18M22 18H42') },
  valve3: { body: p('M8 16L32 30L8 44ZM56 16L32 30L56 44ZM18 58L32 30L46 58Z'), lines: p('M32 30V10M24 10H40') },
  flap: { body: p('M20 6H44V24L58 58H42L32 34L22 58H6L20 24Z'), lines: p('M32 28L22 12') },
  gate: { body: p('M14 10H50V54H14Z'), lines: p('M4 32H60M50 26V38M56 26V38') },
  motor: { body: c(32, 30, 22), lines: p('M22 40V20L32 34L42 20V40M18 56H46M22 50L18 56M42 50L46 56') },
  fan: {
    body: c(32, 32, 24),
    lines: p(
      'M32 32C28 20 34 12 42 14C44 22 40 28 32 32C44 28 52 34 50 42C42 44 36 40 32 32C36 44 30 52 22 50C20 42 24 36 32 32C20 36 12 30 14 22C22 20 28 24 32 32',
    ),
  },
  blower: { body: p('M30 12A20 20 0 1 0 50 32V24H60V12Z'), lines: p('M30 32m-7 0a7 7 0 1 0 14 0a7 7 0 1 0-14 0') },
  compressor: { body: c(32, 32, 23), lines: p('M16 16L54 26M16 48L54 38') },
  tank: { body: p('M12 14Q32 2 52 14V50Q32 62 12 50Z'), lines: p('M12 14Q32 26 52 14') },
  silo: { body: p('M14 12Q32 2 50 12V40L38 58H26L14 40Z'), lines: p('M14 40H50M14 12H50') },
  hopper: { body: p('M6 10H58L40 46V58H24V46Z'), lines: p('M24 46H40') },
  conveyor: {
    body: p('M12 24H52A9 9 0 0 1 52 42H12A9 9 0 0 1 12 24Z'),
    lines: p('M12 33m-4 0a4 4 0 1 0 8 0a4 4 0 1 0-8 0M52 33m-4 0a4 4 0 1 0 8 0a4 4 0 1 0-8 0M22 16H36L32 12M36 16L32 20'),
  },
  screw: { body: p('M6 22H58V44H6Z'), lines: p('M6 33H58M10 44L20 22M20 44L30 22M30 44L40 22M40 44L50 22M50 44L58 27') },
  elevator: {
    body: p('M20 4H44V60H20Z'),
    lines: p(
      'M32 12m-5 0a5 5 0 1 0 10 0a5 5 0 1 0-10 0M32 52m-5 0a5 5 0 1 0 10 0a5 5 0 1 0-10 0M20 24H27V30H20M20 36H27V42H20M44 24H37V30H44M44 36H37V42H44',
    ),
  },
  chain: { body: p('M6 20H58V46H6Z'), lines: p('M6 33H58M14 26V40M24 26V40M34 26V40M44 26V40M54 26V40') },
  rollers: {
    body: (
      <>
        {c(20, 32, 15)}
        {c(46, 32, 11)}
      </>
    ),
    lines: p('M20 32h.1M46 32h.1M20 23A9 9 0 0 1 28 29M46 40A8 8 0 0 1 39 35M33 6V16M29 12L33 16L37 12M33 48V58'),
  },
  kiln: { body: p('M4 22L60 14V42L4 50Z'), lines: p('M16 20V48M46 16V44M10 54H24M40 52H54M28 40Q24 34 30 28Q30 34 34 32Q38 38 32 42Q29 42 28 40') },
  burner: {
    body: p('M32 6C44 20 52 28 50 42C48 54 40 58 32 58C24 58 16 54 14 42C13 32 20 28 22 18C28 22 30 26 30 30C34 24 34 16 32 6Z'),
    lines: p('M32 52C26 50 26 44 32 38C38 44 38 50 32 52'),
  },
  boiler: {
    body: p('M8 22Q8 12 20 12H44Q56 12 56 22V42Q56 52 44 52H20Q8 52 8 42Z'),
    lines: p('M8 34H56M20 12V6M44 12V6M18 42Q22 38 26 42T34 42T42 42T50 42'),
  },
  heater: { body: p('M8 12H56V52H8Z'), lines: p('M14 32L20 22L28 42L36 22L44 42L50 32') },
  cooler: { body: p('M8 12H56V52H8Z'), lines: p('M32 18V46M20 25L44 39M44 25L20 39') },
  exchanger: { body: c(32, 32, 24), lines: p('M2 32H18L25 20L39 44L46 32H62') },
  filter: { body: p('M12 6H52V36L38 58H26L12 36Z'), lines: p('M12 36H52M20 12V30M28 12V30M36 12V30M44 12V30') },
  cyclone: { body: p('M16 12H48V28L36 58H28L16 28Z'), lines: p('M26 12V4H38V12M16 20H4M16 28H48M22 22H42') },
  sifter: {
    body: p('M8 14H56V50H8Z'),
    lines: p('M8 26H56M8 38H56M14 26l3-4m5 4l3-4m5 4l3-4m5 4l3-4m5 4l3-4M14 38l3-4m5 4l3-4m5 4l3-4m5 4l3-4m5 4l3-4'),
  },
  mixer: { body: p('M10 16H54V44Q54 58 32 58Q10 58 10 44Z'), lines: p('M32 4V42M18 36L46 48M18 48L46 36') },
  weigher: { body: p('M14 12H50V36H14Z'), lines: p('M14 24H50M20 36L10 54H54L44 36M32 54V44M26 48L32 44L38 48') },
  bagger: { body: p('M18 28Q14 58 18 60H46Q50 58 46 28Z'), lines: p('M24 4H40V18L36 28H28L24 18ZM18 40H46') },
  sensor: { body: c(32, 24, 18), lines: p('M32 42V60M26 24H38M32 18V30') },
  thermometer: { body: c(32, 24, 18), lines: p('M32 42V60M25 17H39M32 17V32') },
  gauge: { body: c(32, 24, 18), lines: p('M32 42V60M32 24L42 14M20 30A14 14 0 0 1 44 30') },
  lightGate: {
    body: (
      <>
        {p('M4 18H18V46H4Z')}
        {p('M46 18H60V46H46Z')}
      </>
    ),
    lines: p('M18 32H24M28 32H36M40 32H46'),
  },
  magnet: { body: p('M10 8H24V34A8 8 0 0 0 40 34V8H54V34A22 22 0 0 1 10 34Z'), lines: p('M10 20H24M40 20H54') },
  beacon: { body: p('M18 36Q18 14 32 14Q46 14 46 36Z'), lines: p('M12 36H52V50H12ZM32 8V2M12 16L7 11M52 16L57 11') },
  horn: { body: p('M8 24H20L44 10V54L20 40H8Z'), lines: p('M50 24Q54 32 50 40M56 18Q62 32 56 46') },
  switchBox: { body: p('M12 6H52V58H12Z'), lines: p('M32 22m-9 0a9 9 0 1 0 18 0a9 9 0 1 0-18 0M32 22V14M20 42H44M20 50H44') },
  hand: {
    body: p('M18 30V16a4 4 0 0 1 8 0V10a4 4 0 0 1 8 0v4a4 4 0 0 1 8 0v6a4 4 0 0 1 8 0v18Q50 58 34 58Q24 58 18 48L9 36a5 5 0 0 1 8-5Z'),
    lines: p('M26 16V28M34 14V28M42 20V30'),
  },
};
