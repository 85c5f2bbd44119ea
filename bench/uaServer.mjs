/** A server of OPC UA with 10 000 variables, some of which change each second; prints its port. Knows nothing of the product. */
import { createServer } from 'node:net';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { DataType, OPCUACertificateManager, OPCUAServer, setDebugLogger, setErrorLogger, setWarningLogger, Variant } from 'node-opcua';

const [count = 10_000, changesPerSecond = 1000] = process.argv.slice(2).map(Number);
for (const set of [setDebugLogger, setWarningLogger, setErrorLogger]) set(() => undefined);
const probe = createServer();
await new Promise((resolve) => probe.listen(0, '127.0.0.1', resolve));
const { port } = probe.address();
await new Promise((resolve) => probe.close(resolve));
const manager = new OPCUACertificateManager({ rootFolder: mkdtempSync(join(tmpdir(), 'bench-ua-')), automaticallyAcceptUnknownCertificate: true });
await manager.initialize();
const server = new OPCUAServer({ port, host: '127.0.0.1', hostname: '127.0.0.1', serverCertificateManager: manager });
await server.initialize();
const space = server.engine.addressSpace;
const own = space.registerNamespace('urn:bench:load');
const variables = [];
for (let f = 0; f < count / 100; f++) {
  const folder = own.addObject({ organizedBy: space.rootFolder.objects, browseName: `Part${f}`, nodeId: `s=Part${f}` });
  for (let i = 0; i < 100; i++) {
    const n = f * 100 + i;
    variables.push(
      own.addVariable({
        componentOf: folder,
        browseName: `v${n}`,
        nodeId: `s=v${n}`,
        dataType: 'Double',
        minimumSamplingInterval: 0,
        value: new Variant({ dataType: DataType.Double, value: n }),
      }),
    );
  }
}
await server.start();
let next = 0;
const STEP_MS = 50;
setInterval(() => {
  for (let i = 0; i < (changesPerSecond * STEP_MS) / 1000; i++) {
    variables[next].setValueFromSource(new Variant({ dataType: DataType.Double, value: Math.random() * 1000 }));
    next = (next + 7) % variables.length;
  }
}, STEP_MS);
console.log(port);
process.on('disconnect', () => process.exit(0));
