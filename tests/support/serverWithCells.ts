/** The server with one more driver, which is a manifest and a session in memory; what lies in its cells is told by POST /set on a port of its own. */
import { createServer } from 'node:http';
import { addDriver } from '@/drivers/registry.ts';
import { MockCells } from './mockDriver.ts';

const cells = new MockCells();
cells.set('cell:bed_temp', 104.5);
cells.set('cell:speed_ro', 40);
addDriver(cells.driver);
createServer((request, response) => {
  const [, name = '', value = ''] = (request.url ?? '').split('/');
  if (value !== '') cells.set(`cell:${name}`, Number(value));
  response.end(String(cells.values.get(`cell:${name}`)));
}).listen(Number(process.env.CELLS_PORT), '127.0.0.1');

await import('@/server/main.ts');
