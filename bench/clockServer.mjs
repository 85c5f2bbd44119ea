/** Controllers whose every register holds the millisecond at which it is read: what is shown tells how old it is. */
import { createServer } from 'node:net';

const DEVICES = Number(process.argv[2] ?? 8);
const begun = Date.now();

for (let i = 0; i < DEVICES; i++) {
  const server = createServer((socket) => {
    socket.setNoDelay(true);
    let rest = Buffer.alloc(0);
    socket.on('error', () => socket.destroy());
    socket.on('data', (chunk) => {
      const bytes = rest.length ? Buffer.concat([rest, chunk]) : chunk;
      const now = (Date.now() - begun) & 0xffff;
      let at = 0;
      for (; bytes.length - at >= 12; at += 12) {
        const count = bytes.readUInt16BE(at + 10);
        const reply = Buffer.allocUnsafe(9 + count * 2);
        bytes.copy(reply, 0, at, at + 8);
        reply.writeUInt16BE(3 + count * 2, 4);
        reply[8] = count * 2;
        for (let r = 0; r < count; r++) reply.writeUInt16BE(now, 9 + r * 2);
        socket.write(reply);
      }
      rest = bytes.subarray(at);
    });
  });
  server.listen(0, '127.0.0.1', () => process.stdout.write(`${JSON.stringify({ port: server.address().port, begun })}\n`));
}
process.on('disconnect', () => process.exit(0));
