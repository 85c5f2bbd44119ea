import { ok } from '@/core/result.ts';
import { answer, guarded } from '../../http/answers.ts';
import { audited } from '../../http/audited.ts';
import { services } from '../../http/services.ts';

export const GET = guarded(async () => answer(ok(await services().backups.list())));

export const POST = guarded(async () => answer(audited(await services().backups.make('on request'), 'backup', '', ({ name }) => name)));
