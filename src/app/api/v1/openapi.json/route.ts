import { ok } from '@/core/result.ts';
import { answer, guarded } from '../../http/answers.ts';
import { openApiDocument } from '../../http/openApi.ts';

export const GET = guarded(async () => answer(ok(openApiDocument())));
