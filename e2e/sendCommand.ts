/** Changes the project from outside, as a script would. */
import { v7 as uuid } from 'uuid';

export async function sendCommand(address: string, label: string, changes: readonly object[]): Promise<void> {
  const answer = await fetch(`${address}/api/v1/commands`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: address },
    body: JSON.stringify({ id: uuid(), label, changes }),
  });
  if (!answer.ok) throw new Error(await answer.text());
}
