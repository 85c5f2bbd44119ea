import { ok } from '@/core/result.ts';
import { answer, guarded, isFromAfar } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

export const GET = guarded(async (request: Request) => answer(ok(isFromAfar(request) ? services().panelSnapshot() : services().snapshot())));
