/** What a person reads in the terminal when the data folder is not what was stored in it. */
import { listBackups } from '@/store/backups.ts';
import type { DamagedFolder } from '@/store/tallies.ts';

export async function damagedInWords({ message, canBeAccepted }: DamagedFolder, folder: string): Promise<string> {
  return [
    `The data folder ${folder} is damaged. Nothing in it was changed.`,
    message,
    await backupsInWords(folder),
    ...(canBeAccepted ? ['To open what is there as it is, once a copy of it is made: npm start -- --as-it-is'] : []),
    'To begin anew, choose an empty folder with --data.',
  ].join('\n');
}

export async function backupsInWords(folder: string): Promise<string> {
  const backups = await listBackups(folder);
  if (backups.length === 0) return 'There is no backup of it.';
  return `Backups, the newest first:\n${backups.map(({ name }) => `  ${name}`).join('\n')}\nTo go back to one: npm start -- --restore "${backups[0]?.name ?? ''}"`;
}
