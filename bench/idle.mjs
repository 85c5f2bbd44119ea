/** A process that does nothing: how long it was held up at the most is the machine's doing. Answers each message. */
import { monitorEventLoopDelay } from 'node:perf_hooks';

const RESOLUTION_MS = 5;
const delay = monitorEventLoopDelay({ resolution: RESOLUTION_MS });
delay.enable();
process.on('message', () => {
  process.send({ longestMs: Math.max(0, delay.max / 1e6 - RESOLUTION_MS) });
  delay.reset();
});
process.on('disconnect', () => process.exit(0));
