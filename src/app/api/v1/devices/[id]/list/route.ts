import { guarded, problem } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

export const GET = guarded(async (_request: Request, context: { params: Promise<{ id: string }> }) => {
  const list = services().lists.takeOut((await context.params).id);
  if (!list.ok) return problem(list.problem);
  const { name, csv } = list.value;
  const plain = name.replace(/[^A-Za-z0-9 ,._-]/g, '-');
  return new Response(csv, {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': `attachment; filename="${plain}.csv"; filename*=UTF-8''${encodeURIComponent(name)}.csv`,
      'cache-control': 'no-store',
    },
  });
});
