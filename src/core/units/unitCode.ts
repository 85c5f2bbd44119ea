/** Units as engineers write them, and their codes in UCUM (Unified Code for Units of Measure, 2.1). */
import { ucum } from '@atomic-ehr/ucum';

/** Spellings of the trade that are no codes themselves. */
const SPELLINGS: Readonly<Record<string, string>> = {
  '°C': 'Cel',
  degC: 'Cel',
  '°F': '[degF]',
  degF: '[degF]',
  Ω: 'Ohm',
  kΩ: 'kOhm',
  µm: 'um',
  μm: 'um',
  µs: 'us',
  μs: 'us',
  µA: 'uA',
  μA: 'uA',
  'mm²': 'mm2',
  'cm²': 'cm2',
  'm²': 'm2',
  'cm³': 'cm3',
  'dm³': 'dm3',
  'm³': 'm3',
  'm³/h': 'm3/h',
  'm³/min': 'm3/min',
  'm³/s': 'm3/s',
  'kg/m³': 'kg/m3',
  'g/cm³': 'g/cm3',
  'm/s²': 'm/s2',
  'l/h': 'L/h',
  'l/min': 'L/min',
  'l/s': 'L/s',
  'N/mm²': 'N/mm2',
  '°': 'deg',
  '‰': '[ppth]',
  ppm: '[ppm]',
  rpm: '{r}/min',
  'r/min': '{r}/min',
  '1/min': '{r}/min',
  '1/s': '/s',
  psi: '[psi]',
  lb: '[lb_av]',
  'lb/h': '[lb_av]/h',
  oz: '[oz_av]',
  in: '[in_i]',
  inch: '[in_i]',
  ft: '[ft_i]',
  yd: '[yd_i]',
  mile: '[mi_i]',
  mph: '[mi_i]/h',
  'ft/min': '[ft_i]/min',
  gal: '[gal_us]',
  'gal/min': '[gal_us]/min',
  'ft³': '[cft_i]',
  'ft³/min': '[cft_i]/min',
  'mmH₂O': 'mm[H2O]',
  mmH2O: 'mm[H2O]',
  inH2O: "[in_i'H2O]",
  mmHg: 'mm[Hg]',
  hp: '[HP]',
  VA: 'V.A',
  kVA: 'kV.A',
  var: 'V.A',
  kvar: 'kV.A',
  Ah: 'A.h',
  Wh: 'W.h',
  kWh: 'kW.h',
  MWh: 'MW.h',
  Nm: 'N.m',
  kNm: 'kN.m',
  BTU: '[Btu]',
  'BTU/h': '[Btu]/h',
};

/** One of two of these is a difference of temperatures, that a scale of temperatures has no zero for. */
const DIFFERENCE = /^Δ\s*(.+)$/;

/** Codes that mean something else in the trade: pH is no picohenry, and U no unit of an enzyme. */
const WORDS = /^(pH|a|x|U\b.*|u)$/;

export interface KnownUnit {
  readonly code: string;
  /** Written with Δ: a difference of temperatures. */
  readonly isDifference: boolean;
}

const known = new Map<string, KnownUnit | null>();

/** What a unit means; null for one that no code is known for, which is a word like any other. */
export function knownUnit(text: string): KnownUnit | null {
  const before = known.get(text);
  if (before !== undefined) return before;
  const found = lookedUp(text.trim());
  known.set(text, found);
  return found;
}

function lookedUp(text: string): KnownUnit | null {
  if (text === '') return null;
  const difference = DIFFERENCE.exec(text)?.[1];
  const bare = difference ?? text;
  if (WORDS.test(bare)) return null;
  const code = Object.hasOwn(SPELLINGS, bare) ? (SPELLINGS[bare] ?? bare) : bare;
  // A code may hold any word in braces, and such a word alone says nothing.
  if (/[{}]/.test(bare) || !/^[\x21-\x7e]+$/.test(code) || !ucum.validate(code).valid) return null;
  // Decibels and their like are on lines that are not straight: nobody has asked for them yet.
  if (ucum.isSpecialUnit(code) && !isTemperature(code)) return null;
  if (difference !== undefined && !isTemperature(code)) return null;
  return { code, isDifference: difference !== undefined };
}

/** Whether values in it have a zero that was chosen: 20 °C and 20 °C are no 40 °C. */
export function isTemperature(code: string): boolean {
  return code === 'Cel' || code === '[degF]';
}

/** Spellings, in the order in which they are written down here. */
export const SPELT_UNITS: readonly string[] = Object.keys(SPELLINGS);
