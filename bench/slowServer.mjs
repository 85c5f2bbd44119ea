/** Answers every read of holding registers 10 ms after it came; prints its port. Knows nothing of the product. */
import { createServer } from 'node:net';

const DELAY_MS = 10;
const server = createServer((socket) => {
  socket.setNoDelay(true);
  socket.on('error', () => socket.destroy());
  socket.on('data', (frame) => {
    const due = performance.now() + DELAY_MS;
    const count = frame.readUInt16BE(10);
    const reply = Buffer.alloc(9 + 2 * count);
    frame.copy(reply, 0, 0, 8);
    reply.writeUInt16BE(3 + 2 * count, 4);
    reply[8] = 2 * count;
    const wait = () => (performance.now() >= due ? void (socket.writable && socket.write(reply)) : setImmediate(wait));
    setTimeout(wait, DELAY_MS - 2);
  });
});
server.listen(0, '127.0.0.1', () => console.log(server.address().port));
process.on('disconnect', () => process.exit(0));
