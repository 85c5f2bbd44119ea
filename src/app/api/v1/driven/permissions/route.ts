import { answer, guarded, readBody } from '../../../http/answers.ts';
import { audited } from '../../../http/audited.ts';
import { PERMISSION_BODY } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, PERMISSION_BODY);
  if (!body.ok) return answer(body);
  const { tagId, who, low, high, moves } = body.value;
  const { driving, model } = services();
  const done = await driving.permit(tagId, who, low ?? '', high ?? '', moves);
  return answer(
    audited(done, 'may-be-set', who, ({ range }) => {
      const between = range === null ? 'to any of its states' : `from ${range.low} to ${range.high}`;
      return `${model.get('tag', tagId)?.name ?? tagId}, ${between}${moves ? ', while isolated' : ', moves nothing'}`;
    }),
  );
});
