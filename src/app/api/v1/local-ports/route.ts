import { ok } from '@/core/result.ts';
import { answer, guarded } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

/** Serial ports and network adapters of this machine. */
export const GET = guarded(async () => answer(ok(await services().connections.localPorts())));
