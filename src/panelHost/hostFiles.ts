/** All that a panel host keeps beside its project: opened once, whatever is taken over meanwhile. */
import { PinStore, type PinRows } from '@/store/pinStore.ts';
import { SecretBox } from '@/store/secretBox.ts';
import { AlarmLog } from '@/store/files/alarmLog.ts';
import { AuditFile, NetworkFile, pinFile, secretFile, SetFile } from '@/store/files/hostFiles.ts';
import { WriteLog } from '@/store/files/writeLog.ts';

export interface HostFiles {
  readonly records: WriteLog;
  readonly alarms: AlarmLog;
  readonly sets: SetFile;
  readonly pinRows: PinRows;
  readonly pins: PinStore;
  readonly secrets: SecretBox;
  readonly network: NetworkFile;
  readonly audit: AuditFile;
  close(): Promise<void>;
}

export async function openHostFiles(folder: string): Promise<HostFiles> {
  const [records, alarms, sets, pinRows, secrets, network, audit] = await Promise.all([
    WriteLog.open(folder),
    AlarmLog.open(folder),
    SetFile.open(folder),
    pinFile(folder),
    SecretBox.open(await secretFile(folder), folder),
    NetworkFile.open(folder),
    AuditFile.open(folder),
  ]);
  return {
    records,
    alarms,
    sets,
    pinRows,
    pins: new PinStore(pinRows),
    secrets,
    network,
    audit,
    async close() {
      await Promise.all([records.close(), alarms.close(), audit.close()]);
    },
  };
}
