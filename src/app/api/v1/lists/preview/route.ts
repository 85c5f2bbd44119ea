import { answer, guarded, readBody } from '../../../http/answers.ts';
import { PREVIEW_BODY } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, PREVIEW_BODY);
  return answer(body.ok ? await services().lists.preview(body.value.deviceId, body.value.text) : body);
});
