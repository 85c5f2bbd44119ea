/** The project as a page holds it, and how changes that come over the live channel are taken into it. */
import type { Proof } from '@/core/check/checkResult.ts';
import type { Applied, Snapshot } from '@/core/project/snapshot.ts';
import type { Device, Element, Entities, EntityKind, Link, Page, Panel, Project, Source, Tag, TagScale } from '@/core/project/entities.ts';
import { proofState, type ProofState } from '@/core/check/proofState.ts';
import { fail, type Result } from '@/core/result.ts';
import { EffectiveSignals, type EffectiveSignal } from '@/drivers/effective.ts';

type Tables = { readonly [K in EntityKind]: ReadonlyMap<string, Entities[K]> };

/** Unchanging: every change makes a new one, so that views see by identity what is new. */
export class ProjectView {
  #sorted: readonly Tag[] | null = null;

  private constructor(
    readonly revision: number,
    private readonly tables: Tables,
    private readonly proofs: ReadonlyMap<string, readonly Proof[]>,
    /** Handed on from view to view. */
    private readonly known: EffectiveSignals,
  ) {}

  static of(snapshot: Snapshot): ProjectView {
    const byId = <T extends { readonly id: string }>(list: readonly T[]): ReadonlyMap<string, T> => new Map(list.map((e) => [e.id, e]));
    const proofs = new Map<string, Proof[]>();
    for (const proof of snapshot.proofs) proofs.set(proof.tagId, [...(proofs.get(proof.tagId) ?? []), proof]);
    const tables: Tables = {
      project: byId([snapshot.project]),
      link: byId(snapshot.links),
      device: byId(snapshot.devices),
      source: byId(snapshot.sources),
      tag: byId(snapshot.tags),
      scale: byId(snapshot.scales),
      panel: byId(snapshot.panels),
      page: byId(snapshot.pages),
      element: byId(snapshot.elements),
    };
    return new ProjectView(snapshot.revision, tables, proofs, new EffectiveSignals());
  }

  withChanges(revision: number, changes: Applied['changes']): ProjectView {
    const tables: Record<string, ReadonlyMap<string, unknown>> = { ...this.tables };
    const fresh = new Set<string>();
    for (const { kind, id, after } of changes) {
      if (!fresh.has(kind)) {
        tables[kind] = new Map(tables[kind]);
        fresh.add(kind);
      }
      const table = tables[kind] as Map<string, unknown>;
      if (after === null) table.delete(id);
      else table.set(id, after);
    }
    return new ProjectView(revision, tables as unknown as Tables, this.proofs, this.known);
  }

  withProof(proof: Proof): ProjectView {
    const proofs = new Map(this.proofs);
    proofs.set(proof.tagId, [...(proofs.get(proof.tagId) ?? []).filter((p) => p.digest !== proof.digest), proof]);
    return new ProjectView(this.revision, this.tables, proofs, this.known);
  }

  get project(): Project {
    return [...this.tables.project.values()][0] ?? { id: '', name: '', dialects: [] };
  }
  get links(): readonly Link[] {
    return sortedByName(this.tables.link);
  }
  get devices(): readonly Device[] {
    return sortedByName(this.tables.device);
  }
  get sources(): readonly Source[] {
    return [...this.tables.source.values()].sort((a, b) => b.importedAt.localeCompare(a.importedAt));
  }
  /** By device, then as the controller's memory lies. */
  get tags(): readonly Tag[] {
    this.#sorted ??= [...this.tables.tag.values()].sort(
      (a, b) => a.group.localeCompare(b.group) || a.name.localeCompare(b.name, 'en', { numeric: true }),
    );
    return this.#sorted;
  }
  get panels(): readonly Panel[] {
    return sortedByName(this.tables.panel);
  }
  get scaleCount(): number {
    return [...this.tables.scale.values()].filter((s) => s.scale.kind !== 'none').length;
  }

  entity<K extends EntityKind>(kind: K, id: string): Entities[K] | null {
    return this.tables[kind].get(id) ?? null;
  }

  link(id: string): Link | null {
    return this.tables.link.get(id) ?? null;
  }
  device(id: string): Device | null {
    return this.tables.device.get(id) ?? null;
  }
  tag(id: string): Tag | null {
    return this.tables.tag.get(id) ?? null;
  }
  scale(tagId: string): TagScale | null {
    return this.tables.scale.get(tagId) ?? null;
  }
  panel(id: string): Panel | null {
    return this.tables.panel.get(id) ?? null;
  }
  pagesOf(panelId: string): readonly Page[] {
    return [...this.tables.page.values()].filter((p) => p.panelId === panelId).sort((a, b) => a.position - b.position);
  }
  page(id: string): Page | null {
    return this.tables.page.get(id) ?? null;
  }
  elementsOn(pageId: string): readonly Element[] {
    return [...this.tables.element.values()].filter((e) => e.pageId === pageId).sort((a, b) => a.y - b.y || a.x - b.x);
  }
  elementsOf(tagId: string): readonly Element[] {
    return [...this.tables.element.values()].filter((e) => e.tagId === tagId);
  }

  effective(tagId: string): Result<EffectiveSignal> {
    const tag = this.tag(tagId);
    const device = tag && this.device(tag.deviceId);
    const link = device && this.link(device.linkId);
    if (!tag || !device || !link) return fail('gone', 'The tag is not there (any more).');
    return this.known.of({ tag, device, link, scale: this.scale(tagId) });
  }

  proofOf(tagId: string): { readonly state: ProofState; readonly last: Proof | null } {
    const checked = this.proofs.get(tagId) ?? [];
    if (checked.length === 0) return { state: 'unproven', last: null };
    const effective = this.effective(tagId);
    const digest = effective.ok ? effective.value.digest : null;
    return { state: proofState(checked, digest), last: checked.find((p) => p.digest === digest) ?? checked.at(-1) ?? null };
  }

  /** How many tags are in each state of proof. */
  proofCounts(): Readonly<Record<ProofState, number>> {
    const counts = { proven: 0, failed: 0, changed: 0, unproven: 0 };
    for (const tag of this.tables.tag.values()) counts[this.proofOf(tag.id).state]++;
    return counts;
  }
}

function sortedByName<T extends { readonly name: string }>(table: ReadonlyMap<string, T>): readonly T[] {
  return [...table.values()].sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }));
}
