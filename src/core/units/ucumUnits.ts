/**
 * Units by UCUM (Unified Code for Units of Measure, 2.1): what they are called, and what one is in another, in exact fractions.
 * Imported for what it does: from then on all units are known.
 */
import { ucum } from '@atomic-ehr/ucum';
import { inverted, lineOf, type Line } from '../scaling/line.ts';
import { SPELLINGS } from './spellings.ts';
import { isTemperature } from './unitCode.ts';
import { answerUnits, type KnownUnit, type UnitTable } from './unitTable.ts';

/** One of two of these is a difference of temperatures, that a scale of temperatures has no zero for. */
const DIFFERENCE = /^Δ\s*(.+)$/;

/** Codes that mean something else in the trade: pH is no picohenry, and U no unit of an enzyme. */
const WORDS = /^(pH|a|x|U\b.*|u)$/;

const known = new Map<string, KnownUnit | null>();

function knownUnit(text: string): KnownUnit | null {
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

const lines = new Map<string, Line | null>();

function lineBetween(from: KnownUnit, to: KnownUnit): Line | null {
  const key = `${from.code} ${String(from.isDifference)} ${to.code} ${String(to.isDifference)}`;
  let line = lines.get(key);
  if (line === undefined) lines.set(key, (line = ucum.isConvertible(from.code, to.code) ? made(from, to) : null));
  return line;
}

/** Far apart, so that what doubles lose beside an offset of 459.67 is lost below the digits that are kept. */
const FAR = 1e6;

/** The way whose factor is the shorter decimal is taken as it is written; the other one is its inverse. */
function made(from: KnownUnit, to: KnownUnit): Line {
  const [there, back] = [factorOf(from, to), factorOf(to, from)];
  const longer = digitsOf(there) - digitsOf(back);
  // Of two that are as long always the same one, so that each is the other's inverse.
  return longer < 0 || (longer === 0 && from.code <= to.code) ? lineOf(there, zeroOf(from, to)) : inverted(lineOf(back, zeroOf(to, from)));
}

function factorOf(from: KnownUnit, to: KnownUnit): number {
  const at = (value: number): number => ucum.convert(value, from.code, to.code);
  return cut(isTemperature(from.code) || isTemperature(to.code) ? (at(FAR) - at(0)) / FAR : at(1), 14);
}

/** What 0 is. */
function zeroOf(from: KnownUnit, to: KnownUnit): number {
  const isAbsolute = (isTemperature(from.code) || isTemperature(to.code)) && !from.isDifference && !to.isDifference;
  return isAbsolute ? cut(ucum.convert(0, from.code, to.code), 12) : 0;
}

function cut(value: number, digits: number): number {
  return Number(value.toPrecision(digits));
}

function digitsOf(value: number): number {
  return value.toExponential().replace(/e.*|[-.]/g, '').length;
}

export const UCUM: UnitTable = { known: knownUnit, line: lineBetween };

answerUnits(UCUM);
