import type { AnyObject, StringSchema } from 'yup';
import { words } from './fieldSchemas.ts';

/** The address of a control channel; empty for none. */
export function witnessUrlText(): StringSchema<string | undefined, AnyObject> {
  return words('The control channel', 200).matches(
    /^$|^http:\/\/(127\.\d+\.\d+\.\d+|localhost|\[::1\]):\d{1,5}$/,
    'A control channel is an address on this machine, such as http://127.0.0.1:8502.',
  );
}
