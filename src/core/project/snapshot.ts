/** The project as a page needs it at first, and each change of it afterwards. */
import type { Proof } from '../check/checkResult.ts';
import type { AnyEntity, Device, Element, EntityKind, Link, Page, Panel, Project, Source, Tag, TagScale } from './entities.ts';

export interface Snapshot {
  /** Grows by one with each change; a page that misses one loads the project again. */
  readonly revision: number;
  readonly project: Project;
  readonly links: readonly Link[];
  readonly devices: readonly Device[];
  readonly sources: readonly Source[];
  readonly tags: readonly Tag[];
  readonly scales: readonly TagScale[];
  readonly panels: readonly Panel[];
  readonly pages: readonly Page[];
  readonly elements: readonly Element[];
  readonly proofs: readonly Proof[];
}

export interface AppliedChange {
  readonly kind: EntityKind;
  readonly id: string;
  readonly after: AnyEntity | null;
}

export interface Applied {
  readonly revision: number;
  readonly label: string;
  /** Empty where there are so many that the live channel tells them, or the project is asked for again. */
  readonly changes: readonly AppliedChange[];
  readonly isShortened?: true;
}

/** Changes above which an answer does not repeat them. */
const ANSWERED = 1000;

export function shortened(applied: Applied): Applied {
  return applied.changes.length > ANSWERED ? { ...applied, changes: [], isShortened: true } : applied;
}
