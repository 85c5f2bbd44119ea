/**
 * Runs the benchmarks, prints each figure as a ratio as soon as it is known, and fails when one is missed. `npm run bench -- modbus`, `-- lines`,
 * `-- server`, `-- lists`, `-- files`, `-- first-screen`, `-- opc-ua`, `-- named-tags`, `-- mapping`, `-- panels`, `-- at-work`, `-- hosts`, `-- checks`, `-- check-runs`, `-- recording` or `-- hardening` runs one part.
 */
import { checkRuns } from './checkRuns.ts';
import { checks } from './checks.ts';
import { isMet, type Figure } from './figure.ts';
import { firstScreen } from './firstScreen.ts';
import { hardening } from './hardening.ts';
import { lines } from './lines.ts';
import { mapping } from './mapping.ts';
import { lists } from './lists.ts';
import { modbusReads } from './modbusReads.ts';
import { namedTags } from './namedTags.ts';
import { opcUa } from './opcUa.ts';
import { panelPages } from './panelPages.ts';
import { hostDay } from './hostDay.ts';
import { panelHosts } from './panelHosts.ts';
import { panelsAtWork } from './panelsAtWork.ts';
import { recording } from './recording.ts';
import { projectFiles } from './projectFiles.ts';
import { serverLoad } from './serverLoad.ts';

const PARTS: Readonly<Record<string, () => Promise<readonly Figure[]> | AsyncIterable<Figure>>> = {
  modbus: modbusReads,
  lines,
  server: serverLoad,
  lists,
  files: projectFiles,
  'first-screen': firstScreen,
  'opc-ua': opcUa,
  'named-tags': namedTags,
  mapping,
  panels: panelPages,
  'at-work': panelsAtWork,
  hosts: panelHosts,
  checks,
  'check-runs': checkRuns,
  recording,
  hardening,
};
if (process.argv[2] === '--host-day') await hostDay(Number(process.argv[3]));
const wanted = process.argv.slice(2);
let missed = 0;
let all = 0;
for (const [name, run] of Object.entries(PARTS)) {
  if (wanted.length > 0 && !wanted.includes(name)) continue;
  for await (const figure of await run()) {
    all++;
    if (!isMet(figure)) missed++;
    console.log(
      `${isMet(figure) ? 'met   ' : 'MISSED'} ${figure.ratio.toFixed(2)} (wanted ${figure.atMost ? 'at most ' : ''}${figure.wanted}) ${figure.name}`,
    );
    if (figure.detail) console.log(`       ${figure.detail}`);
  }
}
console.log(`${all - missed} figures met, ${missed} missed`);
process.exit(missed === 0 ? 0 : 1);
