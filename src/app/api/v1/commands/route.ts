import { COMMAND_SCHEMA, type Command } from '@/core/project/entities.ts';
import { answer, guarded, readBody } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, COMMAND_SCHEMA);
  return answer(body.ok ? await services().projects.execute(body.value as Command, 'engineer') : body);
});
