import { guarded, problem } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

/** Under its digest a photo is never another one. */
export const GET = guarded(async (_request: Request, context: { params: Promise<{ digest: string }> }) => {
  const photo = await services().runs.photo((await context.params).digest);
  if (!photo.ok) return problem(photo.problem);
  return new Response(photo.value, { headers: { 'content-type': 'image/jpeg', 'cache-control': 'private, max-age=31536000, immutable' } });
});
