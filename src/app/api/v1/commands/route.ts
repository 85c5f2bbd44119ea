import { COMMAND_SCHEMA } from '@/core/project/command.ts';
import { answerApplied, guarded, LARGE_BODY_BYTES, readBody } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, COMMAND_SCHEMA, LARGE_BODY_BYTES);
  return answerApplied(body.ok ? await services().projects.execute(body.value, 'engineer') : body);
});
