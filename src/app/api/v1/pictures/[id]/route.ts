import { MEDIA_TYPES } from '@/core/picture/picture.ts';
import { guarded, problem } from '../../../http/answers.ts';
import { services } from '../../../http/services.ts';

/** A year: under its digest a picture is never another one. */
const FOREVER = 'private, max-age=31536000, immutable';

export const GET = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const file = await services().pictures.file((await context.params).id);
  if (!file.ok) return problem(file.problem);
  const { type, digest, bytes } = file.value;
  const isNamed = new URL(request.url).searchParams.get('digest') === digest;
  return new Response(bytes, {
    headers: {
      'content-type': MEDIA_TYPES[type],
      'cache-control': isNamed ? FOREVER : 'no-store',
    },
  });
});
