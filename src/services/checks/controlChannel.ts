/** The control channel of a simulated process, which tells engineering values without our mapping. */
import { fail, ok, type Result } from '@/core/result.ts';
import { parseDecimal } from '@/core/value/decimal.ts';
import type { DataType } from '@/core/value/dataType.ts';
import type { EngValue } from '@/core/value/engineering.ts';

const TIMEOUT_MS = 2000;
const INSTEAD = 'Enter what you see at the controller instead.';

/** @param url  of the channel; empty for a device that has none */
export async function toldBy(url: string, tagName: string, type: DataType): Promise<Result<EngValue>> {
  if (url === '')
    return fail(
      'no-witness',
      'The device has no control channel.',
      `${INSTEAD.slice(0, -1)}, or give the device a control channel in Links.`,
      'witness',
    );
  try {
    const response = await fetch(`${url}/values/${encodeURIComponent(tagName)}`, { signal: AbortSignal.timeout(TIMEOUT_MS), redirect: 'error' });
    if (response.status === 404) return fail('no-witness', `The control channel knows no ${tagName}.`, INSTEAD, 'witness');
    const told: unknown = await response.json();
    return valueOf(type, typeof told === 'object' && told !== null && 'value' in told ? told.value : null);
  } catch (error) {
    const why = error instanceof Error ? error.message : 'no reason given';
    return fail('witness-silent', `The control channel at ${url} does not answer (${why}).`, 'Check that the simulated device runs.', 'witness');
  }
}

function valueOf(type: DataType, value: unknown): Result<EngValue> {
  if (type.kind === 'text' && typeof value === 'string') return ok(value);
  if (type.kind === 'boolean' && typeof value === 'boolean') return ok(value);
  if (type.kind !== 'text' && type.kind !== 'boolean') {
    if (typeof value === 'number' && Number.isFinite(value)) return ok(value);
    const decimal = typeof value === 'string' ? parseDecimal(value) : null;
    if (decimal) return ok(decimal);
  }
  return fail('witness-form', 'The control channel told something else than a value of this type.', INSTEAD, 'witness');
}
