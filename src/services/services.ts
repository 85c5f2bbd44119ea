/** The one set of services of this process, and how route handlers reach it: their bundle gets copies of modules. */
import type { Status, Trouble } from '@/core/live/status.ts';
import type { EntityKind } from '@/core/project/entities.ts';
import type { FirstSnapshot, Snapshot } from '@/core/project/snapshot.ts';
import type { Result } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';
import { ProjectModel } from '@/model/projectModel.ts';
import { watchLoop, type Health } from '@/runtime/loopWatch.ts';
import type { Database } from '@/store/database.ts';
import { AlarmStore } from '@/store/alarmStore.ts';
import { ListStore } from '@/store/listStore.ts';
import { SetStore } from '@/store/setStore.ts';
import { PinStore, pinTable } from '@/store/pinStore.ts';
import { LocalValueStore } from '@/store/localValueStore.ts';
import { NetworkStore } from '@/store/networkStore.ts';
import { PanelHostStore } from '@/store/panelHostStore.ts';
import { PhotoStore } from '@/store/photoStore.ts';
import { PictureStore } from '@/store/pictureStore.ts';
import { DrivePermissionStore } from '@/store/drivePermissionStore.ts';
import { EntryJournal } from '@/store/entryJournal.ts';
import { CheckRunStore } from '@/store/checkRunStore.ts';
import { RecorderStore } from '@/store/recorderStore.ts';
import { RecordingRing } from '@/store/recordingRing.ts';
import { Trail } from '@/store/trail.ts';
import { ProjectStore } from '@/store/projectStore.ts';
import { SecretBox, secretTable } from '@/store/secretBox.ts';
import { RecordStore } from '@/store/recordStore.ts';
import { AuditTrail } from './auditTrail.ts';
import { BackupService } from './backupService.ts';
import { BusService } from './busService.ts';
import { CheckService } from './checks/checkService.ts';
import { DrawnPages, type AskPages } from './checks/drawnPages.ts';
import { DrawnWatch } from './checks/drawnWatch.ts';
import { OtherPointReader } from './checks/otherPoints.ts';
import { Proofs } from './checks/proofs.ts';
import { Recorder } from './checks/recorder.ts';
import { ReportService } from './checks/reportService.ts';
import { RunService } from './checks/runService.ts';
import { Surroundings } from './checks/surroundings.ts';
import { ConnectionService } from './connectionService.ts';
import { DRIVEN_VALUES } from './driving/drivenValues.ts';
import { DrivingService } from './driving/drivingService.ts';
import { FindService } from './findService.ts';
import { CopyService } from './copyService.ts';
import { DeviceLists } from './lists/deviceLists.ts';
import { ListService } from './lists/listService.ts';
import { MemoryService } from './memoryService.ts';
import { NetworkService } from './networkService.ts';
import { ProjectFileService } from './projectFile/projectFileService.ts';
import { ProjectService } from './projectService.ts';
import { createPanelWork, type PanelWork } from './panelWork.ts';
import { HostingService } from './hosting/hostingService.ts';
import { TextFiles } from './panels/textFiles.ts';
import { panelStatus } from './seenFromPanels.ts';
import { firstOf, snapshotOf, statusOf } from './snapshot.ts';
import { SignatureService } from './signatureService.ts';
import { TraceService } from './traceService.ts';
import { TroubleService } from './troubleService.ts';

export interface Services extends Omit<PanelWork, 'start' | 'wantAlwaysRead' | 'endWriting' | 'kept'> {
  readonly projects: ProjectService;
  readonly lists: ListService;
  readonly copies: CopyService;
  readonly checks: CheckService;
  readonly driving: DrivingService;
  readonly runs: RunService;
  readonly reports: ReportService;
  readonly recorder: Recorder;
  readonly connections: ConnectionService;
  readonly traces: TraceService;
  readonly buses: BusService;
  readonly finds: FindService;
  readonly memory: MemoryService;
  readonly signatures: SignatureService;
  readonly projectFiles: ProjectFileService;
  readonly audit: AuditTrail;
  readonly texts: TextFiles;
  readonly hosting: HostingService;
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
const GOES_BY: ReadonlySet<EntityKind> = new Set<EntityKind>(['tag', 'device', 'copyRule', 'alarm', 'block', 'member', 'panelWord', 'simulation']);

/** Loads the project and brings it online. */
export async function createServices(database: Database, clock: Clock, askPages: AskPages, host: Host): Promise<Services> {
  const model = new ProjectModel();
  const records = new RecordStore(database);
  const projects = new ProjectService(model, new ProjectStore(database), clock);
  const secrets = await SecretBox.open(secretTable(database), host.folder);
  const audit = new AuditTrail(database, clock);
  const pictures = new PictureStore(database);
  const pins = new PinStore(pinTable(database));
  const work = await createPanelWork(
    model,
    {
      records,
      pins,
      alarms: new AlarmStore(database),
      sets: new SetStore(database),
      pictures,
      secrets,
      localValues: new LocalValueStore(database),
      audit,
    },
    { folder: host.folder, clock, revision: () => projects.revision },
  );
  const { engine, guard, writer, writes, holds, guards, desks, exchange, signIn, alarms, panels } = work;
  const troubles = new TroubleService(database, host.folder, clock, {
    startedAgain: host.startedAgain,
    doubt: () => proofs.doubt,
    disagreement: () => watch.sentence,
  });
  projects.refusal = () => troubles.problem;
  projects.takeOff = (linkIds) => engine.takeOff(linkIds);
  projects.beforeChange = async (changes) => {
    const back = await driving.beforeChange(changes);
    return back.ok ? holds.beforeChange(changes) : back;
  };
  const snapshot = (): Snapshot => snapshotOf(model, projects, proofs);
  const memory = new MemoryService(model, engine);
  const copies = new CopyService(model, { engine, writer, guard, writes, clock });
  const trail = await Trail.open(database, host.folder);
  const proofs = new Proofs(model, records, trail);
  const drawn = new DrawnPages(model, engine.live, { pages: askPages, sceneOf: (panelId) => panels.scene(panelId) });
  const checks: CheckService = new CheckService(model, engine, proofs, drawn, {
    around: new Surroundings(model, memory),
    others: new OtherPointReader(model, engine),
    drivenOf: (tagId) => driving.shownOf(tagId),
  });
  const watch = new DrawnWatch(model, drawn, clock, { openPages: () => desks.pagesOpen, keep: (tagId) => engine.live.keep(tagId) });
  const recorder = new Recorder(model, engine.live, clock, await RecordingRing.open(host.folder), new RecorderStore(database));
  const runs: RunService = new RunService(model, checks, { store: new CheckRunStore(database), photos: new PhotoStore(database) }, trail, clock);
  const driving: DrivingService = new DrivingService(
    model,
    {
      ...{ engine, writer, guard, writes, clock },
      ...(await EntryJournal.open(host.folder, DRIVEN_VALUES)),
      note: ({ runId, tagId }, who, what) => runs.note(runId, tagId, who, what),
    },
    new DrivePermissionStore(database),
  );
  const network = new NetworkService(new NetworkStore(database), host, clock);
  const lists = new ListService(
    model,
    projects,
    new ListStore(database),
    (tagId) => proofs.isProven(tagId),
    host.draftThread,
    new DeviceLists((deviceId) => engine.session(deviceId), clock),
  );
  const backups = new BackupService(database, host, clock);
  await network.load();
  await projects.load();
  await proofs.load();
  await driving.load();
  projects.onApplied(() => {
    for (const name of guards.relockChanged()) audit.record('locked', '', `${name}: it was changed`);
    for (const name of copies.disarmChanged()) audit.record('disarmed', '', `${name}: it was changed`);
  });
  projects.onApplied(({ changes }) => engine.following(changes));
  projects.onApplied(({ changes }) => {
    if (changes.some(({ kind }) => GOES_BY.has(kind))) work.wantAlwaysRead();
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
  await work.start();
  backups.start();
  await troubles.start();
  watch.start();
  await recorder.start();
  audit.record('started', '', host.startedAgain && `again by itself: ${host.startedAgain}`);
  const loop = watchLoop();
  return {
    ...work,
    projects,
    checks,
    driving,
    runs,
    recorder,
    reports: new ReportService(model, proofs, runs, trail, clock),
    copies,
    lists,
    connections: new ConnectionService(model, engine),
    traces: new TraceService(model, engine),
    buses: new BusService(model, engine),
    finds: new FindService(model, engine, holds),
    texts: new TextFiles(panels),
    hosting: new HostingService({
      snapshot,
      panels,
      pictures,
      pins,
      secrets,
      records,
      clock,
      audit: audit.record,
      store: new PanelHostStore(database),
    }),
    memory,
    signatures: new SignatureService(memory),
    projectFiles: new ProjectFileService(model, projects, proofs, snapshot, host.fileThread, () => backups.make('before a project file'), pictures),
    audit,
    backups,
    network,
    secrets,
    snapshot,
    firstSnapshot: () => firstOf(model, projects, proofs),
    panelStatus: () => panelStatus(statusOf(work, troubles, driving)),
    health: () => ({ ...loop(), troubles: troubles.all }),
    status: () => statusOf(work, troubles, driving),
    async close() {
      lists.close();
      await copies.close();
      await driving.close();
      await work.endWriting();
      await backups.close();
      watch.close();
      await recorder.close();
      troubles.close();
      audit.record('ended', '', '');
      await work.close();
      await audit.close();
    },
  };
}
