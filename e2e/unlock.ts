/** Opens a device for writing, by an engineer and by panels. */
import { expect } from '@jest/globals';

export async function unlock(address: string, deviceId: string): Promise<void> {
  const headers = { 'content-type': 'application/json', origin: address };
  const body = JSON.stringify({ deviceId, minutes: 60, who: 'R. Vale', writers: ['engineer', 'panel'] });
  expect((await fetch(`${address}/api/v1/guard/unlock`, { method: 'POST', headers, body })).status).toBe(200);
}
