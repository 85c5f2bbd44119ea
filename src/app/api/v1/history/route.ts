import { ok } from '@/core/result.ts';
import { answer, guarded, limitOf } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

export const GET = guarded(async (request: Request) => answer(ok(await services().projects.history(limitOf(request, 50, 1000)))));
