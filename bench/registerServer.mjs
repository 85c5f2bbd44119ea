/** The server that all clients of the benchmark read from: a bare socket that answers reads of holding registers. */
import { createServer } from 'node:net';

const server = createServer((socket) => {
  socket.setNoDelay(true);
  let rest = Buffer.alloc(0);
  socket.on('error', () => socket.destroy());
  socket.on('data', (chunk) => {
    const bytes = rest.length ? Buffer.concat([rest, chunk]) : chunk;
    const out = [];
    let at = 0;
    for (; bytes.length - at >= 12; at += 12) {
      const count = bytes.readUInt16BE(at + 10);
      const reply = Buffer.alloc(9 + count * 2, 1);
      bytes.copy(reply, 0, at, at + 2);
      reply.writeUInt16BE(0, 2);
      reply.writeUInt16BE(3 + count * 2, 4);
      reply[6] = bytes[at + 6];
      reply[7] = bytes[at + 7];
      reply[8] = count * 2;
      out.push(reply);
    }
    rest = bytes.subarray(at);
    if (out.length) socket.write(out.length === 1 ? out[0] : Buffer.concat(out));
  });
});
server.listen(0, '127.0.0.1', () => process.stdout.write(`${server.address().port}\n`));
process.on('disconnect', () => process.exit(0));
