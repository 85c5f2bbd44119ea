import { answerFile, guarded, problem } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

export const GET = guarded(async (_: Request, context: { params: Promise<{ id: string }> }) => {
  const file = await services().hosting.readBack((await context.params).id);
  if (!file.ok) return problem(file.problem);
  const { name, zip } = file.value;
  return answerFile({ name: `${name}.zip`, type: 'application/zip', bytes: zip });
});
