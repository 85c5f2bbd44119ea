import { ok } from '@/core/result.ts';
import { answer, guarded } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

export const GET = guarded(async () => answer(ok(services().alarms.now())));
