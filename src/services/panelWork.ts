/**
 * What brings panels to work on a project: reading, writing under the guard, presses, alarms, people, the controller's words. The
 * bench's server has it beside all else; a panel host has this alone.
 */
import { join } from 'node:path';
import type { KeptState } from '@/core/live/status.ts';
import { findDriver } from '@/drivers/registry.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import { Engine } from '@/runtime/engine.ts';
import { WriteGuard } from '@/runtime/writeGuard.ts';
import { Writer } from '@/runtime/writer.ts';
import type { AlarmStore } from '@/store/alarmStore.ts';
import { EntryJournal } from '@/store/entryJournal.ts';
import { KeptJournal } from '@/store/keptJournal.ts';
import type { LocalValueStore } from '@/store/localValueStore.ts';
import type { PictureStore } from '@/store/pictureStore.ts';
import type { PinStore } from '@/store/pinStore.ts';
import type { RecordStore } from '@/store/recordStore.ts';
import type { SecretBox } from '@/store/secretBox.ts';
import type { SetStore } from '@/store/setStore.ts';
import { alwaysRead } from './alwaysRead.ts';
import { AlarmService } from './alarms/alarmService.ts';
import type { AuditTrail } from './auditTrail.ts';
import { GuardService } from './guardService.ts';
import { HELD_BUTTONS, HoldService } from './holdService.ts';
import { LifeService } from './lifeService.ts';
import { PanelService } from './panelService.ts';
import { PanelAlarms } from './panels/panelAlarms.ts';
import { PanelDesks } from './panels/panelDesks.ts';
import { PanelExchange } from './panels/panelExchange.ts';
import { SignIn } from './panels/signIn.ts';
import { ValueSets } from './panels/valueSets.ts';
import { PictureService } from './pictureService.ts';
import { WriteService } from './writeService.ts';

/** Where what outlives the process is kept: tables of the database, or plain files. */
export interface WorkStores {
  readonly records: Pick<RecordStore, 'addWrite' | 'write' | 'completeWrite' | 'settleOrphans' | 'writes'>;
  readonly pins: Pick<PinStore, 'known' | 'keep' | 'isRight'>;
  readonly alarms: Pick<AlarmStore, 'standings' | 'keep' | 'forget' | 'records' | 'close'>;
  readonly sets: Pick<SetStore, 'list' | 'keep' | 'remove'>;
  readonly pictures: Pick<PictureStore, 'keep' | 'bytesOf'>;
  readonly secrets: Pick<SecretBox, 'revealed'>;
  /** Null where the journal of kept values is all that there is. */
  readonly localValues: Pick<LocalValueStore, 'load' | 'keep'> | null;
  readonly audit: Pick<AuditTrail, 'record'>;
}

export interface WorkPlace {
  /** The data folder. */
  readonly folder: string;
  readonly clock: Clock;
  /** Grows by one with each change of the project. */
  readonly revision: () => number;
}

export interface PanelWork {
  readonly model: ProjectModel;
  readonly engine: Engine;
  readonly guard: WriteGuard;
  readonly writer: Writer;
  readonly writes: WriteService;
  readonly guards: GuardService;
  readonly holds: HoldService;
  readonly desks: PanelDesks;
  readonly exchange: PanelExchange;
  readonly signIn: SignIn;
  readonly alarms: AlarmService;
  readonly panels: PanelService;
  readonly panelAlarms: PanelAlarms;
  readonly valueSets: ValueSets;
  readonly pictures: PictureService;
  readonly kept: () => KeptState;
  /** Reads on what the server itself goes by, as the project says it now. */
  wantAlwaysRead(): void;
  /** Brings the project online. */
  start(): Promise<void>;
  /** Lets go of what is held, and waits until every write has its entry completed. */
  endWriting(): Promise<void>;
  /** After that: takes everything offline. */
  close(): Promise<void>;
}

/** @param model whose project is loaded, or is before {@link PanelWork.start} */
export async function createPanelWork(model: ProjectModel, stores: WorkStores, { folder, clock, revision }: WorkPlace): Promise<PanelWork> {
  const { records, localValues, audit } = stores;
  const kept = await KeptJournal.open(folder, clock, (await localValues?.load()) ?? new Map());
  const engine = new Engine(model, findDriver, clock, {
    local: {
      keeper: {
        keep: async (tagId, value, at) => {
          await kept.keep(tagId, value, at);
          await localValues?.keep(tagId, value, at);
        },
      },
      written: kept.values,
    },
    revealed: (schema, settings) => stores.secrets.revealed(schema, settings),
    driverFolder: join(folder, 'drivers'),
  });
  const guard = new WriteGuard(clock);
  const writer = new Writer(engine, model, guard);
  const writes = new WriteService(model, engine, writer, guard, records);
  const holds = new HoldService(model, writer, guard, writes, clock, {
    isConnected: (linkId) => engine.linkSession(linkId)?.state.phase === 'connected',
    ...(await EntryJournal.open(folder, HELD_BUTTONS)),
  });
  const desks = new PanelDesks({ panel: (id) => model.get('panel', id), pagesOf: (id) => model.pagesOf(id) }, clock);
  const exchange = new PanelExchange(model, { engine, writer, guard, writes, clock, desks });
  const life = new LifeService(model, writer, records, clock, () => desks.open);
  const signIn = new SignIn(model, stores.pins, clock, audit.record);
  await signIn.load();
  const alarms = new AlarmService(model, { engine, writes, clock, store: stores.alarms });
  const panels = new PanelService(model, engine, { writes, signIn }, revision);
  let unwant: () => void = () => undefined;
  const wantAlwaysRead = (): void => {
    const before = unwant;
    unwant = engine.want(alwaysRead(model));
    before();
  };
  return {
    model,
    engine,
    guard,
    writer,
    writes,
    guards: new GuardService(model, engine, guard),
    holds,
    desks,
    exchange,
    signIn,
    alarms,
    panels,
    panelAlarms: new PanelAlarms(model, panels, alarms),
    valueSets: new ValueSets(model, { panels, writes, engine, store: stores.sets, clock }),
    pictures: new PictureService(model, stores.pictures),
    kept: () => kept.state,
    wantAlwaysRead,
    async start() {
      await records.settleOrphans();
      wantAlwaysRead();
      engine.reconcile();
      await alarms.start();
      exchange.start();
      life.start();
    },
    async endWriting() {
      await holds.releaseAll('Released: the server ends.');
      await exchange.close();
      await life.close();
      await writes.close();
    },
    async close() {
      signIn.close();
      alarms.close();
      await stores.alarms.close();
      engine.close();
      await kept.close();
    },
  };
}
