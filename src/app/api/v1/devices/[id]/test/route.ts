import type { TestStage } from '@/drivers/contract.ts';
import { guarded, problem } from '../../../../http/answers.ts';
import { frameJson } from '../../../../http/frames.ts';
import { answerLines } from '../../../../http/lines.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const begun = services().connections.test((await context.params).id, request.signal);
  return begun.ok ? answerLines(begun.value, stageJson) : problem(begun.problem);
});

function stageJson({ frames, ...stage }: TestStage): unknown {
  return { ...stage, frames: frames?.map(frameJson) ?? [] };
}
