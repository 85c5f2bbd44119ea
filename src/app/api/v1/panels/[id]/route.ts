import { answer, answerPacked, guarded, packingFor } from '../../../http/answers.ts';
import { services } from '../../../http/services.ts';

export const GET = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const { id } = await context.params;
  const { panels } = services();
  const packing = packingFor(request);
  return packing ? answerPacked(await panels.packed(id, packing), packing) : answer(panels.bundle(id));
});
