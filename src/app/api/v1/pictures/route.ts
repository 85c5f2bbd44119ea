import { MOST_PICTURE_BYTES } from '@/core/picture/picture.ts';
import { answer, guarded, readFile } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const file = await readFile(request, MOST_PICTURE_BYTES);
  return answer(file.ok ? await services().pictures.take(file.value) : file);
});
