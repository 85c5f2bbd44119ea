/** The one set of services of this process, and how route handlers reach it: their bundle gets copies of modules. */
import { join } from 'node:path';
import type { Status, Trouble } from '@/core/live/status.ts';
import type { EntityKind } from '@/core/project/entities.ts';
import type { FirstSnapshot, Snapshot } from '@/core/project/snapshot.ts';
import type { Result } from '@/core/result.ts';
import { findDriver } from '@/drivers/registry.ts';
import type { Clock } from '@/drivers/contract.ts';
import { ProjectModel } from '@/model/projectModel.ts';
import { Engine } from '@/runtime/engine.ts';
import { watchLoop, type Health } from '@/runtime/loopWatch.ts';
import { WriteGuard } from '@/runtime/writeGuard.ts';
import { Writer } from '@/runtime/writer.ts';
import type { Database } from '@/store/database.ts';
import { AlarmStore } from '@/store/alarmStore.ts';
import { ListStore } from '@/store/listStore.ts';
import { KeptJournal } from '@/store/keptJournal.ts';
import { SetStore } from '@/store/setStore.ts';
import { PinStore } from '@/store/pinStore.ts';
import { LocalValueStore } from '@/store/localValueStore.ts';
import { NetworkStore } from '@/store/networkStore.ts';
import { PictureStore } from '@/store/pictureStore.ts';
import { ProofBook } from '@/store/proofBook.ts';
import { ProjectStore } from '@/store/projectStore.ts';
import { SecretBox } from '@/store/secretBox.ts';
import { RecordStore } from '@/store/recordStore.ts';
import { alwaysRead } from './alwaysRead.ts';
import { AuditTrail } from './auditTrail.ts';
import { BackupService } from './backupService.ts';
import { BusService } from './busService.ts';
import { CheckService, type AskPages } from './checkService.ts';
import { ConnectionService } from './connectionService.ts';
import { FindService } from './findService.ts';
import { GuardService } from './guardService.ts';
import { HoldJournal } from '@/store/holdJournal.ts';
import { HoldService } from './holdService.ts';
import { CopyService } from './copyService.ts';
import { LifeService } from './lifeService.ts';
import { DeviceLists } from './lists/deviceLists.ts';
import { ListService } from './lists/listService.ts';
import { MemoryService } from './memoryService.ts';
import { NetworkService } from './networkService.ts';
import { ProjectFileService } from './projectFile/projectFileService.ts';
import { ProjectService } from './projectService.ts';
import { PanelService } from './panelService.ts';
import { AlarmService } from './alarms/alarmService.ts';
import { PanelAlarms } from './panels/panelAlarms.ts';
import { ValueSets } from './panels/valueSets.ts';
import { TextFiles } from './panels/textFiles.ts';
import { SignIn } from './panels/signIn.ts';
import { PanelDesks } from './panels/panelDesks.ts';
import { PanelExchange } from './panels/panelExchange.ts';
import { PictureService } from './pictureService.ts';
import { panelStatus } from './seenFromPanels.ts';
import { firstOf, snapshotOf, statusOf } from './snapshot.ts';
import { SignatureService } from './signatureService.ts';
import { SimulationService, type StartSimulation } from './simulationService.ts';
import { TraceService } from './traceService.ts';
import { TroubleService } from './troubleService.ts';
import { WriteService } from './writeService.ts';

export interface Services {
  readonly model: ProjectModel;
  readonly engine: Engine;
  readonly guard: WriteGuard;
  readonly projects: ProjectService;
  readonly lists: ListService;
  readonly guards: GuardService;
  readonly writes: WriteService;
  readonly holds: HoldService;
  readonly copies: CopyService;
  readonly life: LifeService;
  readonly checks: CheckService;
  readonly connections: ConnectionService;
  readonly traces: TraceService;
  readonly buses: BusService;
  readonly finds: FindService;
  readonly panels: PanelService;
  readonly desks: PanelDesks;
  readonly pictures: PictureService;
  readonly memory: MemoryService;
  readonly signatures: SignatureService;
  readonly simulations: SimulationService;
  readonly projectFiles: ProjectFileService;
  readonly audit: AuditTrail;
  readonly signIn: SignIn;
  readonly alarms: AlarmService;
  readonly panelAlarms: PanelAlarms;
  readonly texts: TextFiles;
  readonly valueSets: ValueSets;
  readonly backups: BackupService;
  readonly network: NetworkService;
  readonly secrets: Pick<SecretBox, 'keep'>;
  snapshot(): Snapshot;
  /** For a first screen, which does not wait for thousands of tags. */
  firstSnapshot(): FirstSnapshot;
  /** What other machines get of it. */
  panelStatus(): Status;
  health(): Health & { readonly troubles: readonly Trouble[] };
  status(): Status;
  /** Lets go of what is held, waits until every write has its entry completed, and takes everything offline. */
  close(): Promise<void>;
}

/** What the services need of the process that runs them. */
export interface Host {
  /** The data folder. */
  readonly folder: string;
  readonly port: number;
  /** Opens the server to other machines on an address of this one; null closes it. */
  listen(address: string | null): Promise<Result<null>>;
  readonly simulate: StartSimulation;
  /** The built thread in which lists are read. */
  readonly draftThread: string;
  /** The built thread in which project files are written and read. */
  readonly fileThread: string;
  /** Why the server was started again by itself; empty where a person started it. */
  readonly startedAgain: string;
  /** Ends the process so that it is started again. */
  restart(): void;
}

/** A change of these may be one of what the server itself goes by. */
const GOES_BY: ReadonlySet<EntityKind> = new Set<EntityKind>(['tag', 'device', 'copyRule', 'alarm', 'block', 'member', 'panelWord']);

/** Loads the project and brings it online. */
export async function createServices(database: Database, clock: Clock, askPages: AskPages, host: Host): Promise<Services> {
  const model = new ProjectModel();
  const records = new RecordStore(database);
  const projects = new ProjectService(model, new ProjectStore(database), clock);
  const localValues = new LocalValueStore(database);
  const kept = await KeptJournal.open(host.folder, clock, await localValues.load());
  const secrets = await SecretBox.open(database, host.folder);
  const engine = new Engine(model, findDriver, clock, {
    local: {
      keeper: {
        keep: async (tagId, value, at) => {
          await kept.keep(tagId, value, at);
          await localValues.keep(tagId, value, at);
        },
      },
      written: kept.values,
    },
    revealed: (schema, settings) => secrets.revealed(schema, settings),
    driverFolder: join(host.folder, 'drivers'),
  });
  const guard = new WriteGuard(clock);
  const writer = new Writer(engine, model, guard);
  const writes = new WriteService(model, engine, writer, guard, records);
  const holds = new HoldService(model, writer, guard, writes, clock, {
    isConnected: (linkId) => engine.linkSession(linkId)?.state.phase === 'connected',
    ...(await HoldJournal.open(host.folder)),
  });
  const troubles = new TroubleService(database, host.folder, clock, { startedAgain: host.startedAgain, doubt: () => checks.doubt });
  projects.refusal = () => troubles.problem;
  projects.takeOff = (linkIds) => engine.takeOff(linkIds);
  projects.beforeChange = (changes) => holds.beforeChange(changes);
  const snapshot = (): Snapshot => snapshotOf(model, projects, checks);
  const memory = new MemoryService(model, engine);
  const copies = new CopyService(model, { engine, writer, guard, writes, clock });
  const desks = new PanelDesks({ panel: (id) => model.get('panel', id), pagesOf: (id) => model.pagesOf(id) }, clock);
  const exchange = new PanelExchange(model, { engine, writer, guard, writes, clock, desks });
  const life = new LifeService(model, writer, records, clock, () => desks.open);
  const guards = new GuardService(model, engine, guard);
  const audit = new AuditTrail(database, clock);
  const signIn = new SignIn(model, new PinStore(database), clock, audit.record);
  await signIn.load();
  const alarmStore = new AlarmStore(database);
  const alarms = new AlarmService(model, { engine, writes, clock, store: alarmStore });
  const panels = new PanelService(model, engine, { writes, signIn }, () => projects.revision);
  const checks = new CheckService(model, engine, records, await ProofBook.open(database, host.folder), {
    pages: askPages,
    sceneOf: (panelId) => panels.scene(panelId),
  });
  const network = new NetworkService(new NetworkStore(database), host, clock);
  const simulations = new SimulationService(model, projects, host.simulate);
  const lists = new ListService(
    model,
    projects,
    new ListStore(database),
    (tagId) => checks.isProven(tagId),
    host.draftThread,
    new DeviceLists((deviceId) => engine.session(deviceId), clock),
  );
  const pictures = new PictureStore(database);
  const backups = new BackupService(database, host, clock);
  await network.load();
  await projects.load();
  await checks.load();
  await records.settleOrphans();
  projects.onApplied(() => {
    for (const name of guards.relockChanged()) audit.record('locked', '', `${name}: it was changed`);
    for (const name of copies.disarmChanged()) audit.record('disarmed', '', `${name}: it was changed`);
  });
  let unwant = engine.want(alwaysRead(model));
  projects.onApplied(({ changes }) => engine.following(changes));
  projects.onApplied(({ changes }) => {
    if (!changes.some(({ kind }) => GOES_BY.has(kind))) return;
    const before = unwant;
    unwant = engine.want(alwaysRead(model));
    before();
  });
  projects.onApplied(({ changes }) => {
    if (!changes.some(({ kind }) => kind === 'panel' || kind === 'page' || kind === 'panelWord')) return;
    for (const panelId of desks.open) desks.follow(panelId);
    exchange.follow();
  });
  projects.onApplied(({ changes }) => {
    if (changes.some(({ kind }) => kind === 'operator' || kind === 'panel')) signIn.follow();
  });
  projects.onApplied(({ changes }) => alarms.follow(changes));
  engine.reconcile();
  await alarms.start();
  exchange.start();
  life.start();
  backups.start();
  await troubles.start();
  audit.record('started', '', host.startedAgain && `again by itself: ${host.startedAgain}`);
  const loop = watchLoop();
  return {
    model,
    engine,
    guard,
    projects,
    checks,
    guards,
    holds,
    copies,
    life,
    lists,
    writes,
    connections: new ConnectionService(model, engine),
    traces: new TraceService(model, engine),
    buses: new BusService(model, engine),
    finds: new FindService(model, engine, holds),
    panels,
    desks,
    signIn,
    alarms,
    texts: new TextFiles(panels),
    valueSets: new ValueSets(model, { panels, writes, engine, store: new SetStore(database), clock }),
    panelAlarms: new PanelAlarms(model, panels, alarms),
    pictures: new PictureService(model, pictures),
    memory,
    signatures: new SignatureService(memory),
    simulations,
    projectFiles: new ProjectFileService(model, projects, checks, snapshot, host.fileThread, () => backups.make('before a project file'), pictures),
    audit,
    backups,
    network,
    secrets,
    snapshot,
    firstSnapshot: () => firstOf(model, projects, checks),
    panelStatus: () => panelStatus(statusOf(engine, guard, holds, troubles, exchange, kept.state)),
    health: () => ({ ...loop(), troubles: troubles.all }),
    status: () => statusOf(engine, guard, holds, troubles, exchange, kept.state),
    async close() {
      lists.close();
      await holds.releaseAll('Released: the server ends.');
      await copies.close();
      await exchange.close();
      await life.close();
      await writes.close();
      await backups.close();
      troubles.close();
      signIn.close();
      alarms.close();
      await alarmStore.close();
      audit.record('ended', '', '');
      await audit.close();
      engine.close();
      await kept.close();
      simulations.close();
    },
  };
}
