import { guarded, problem } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

export const GET = guarded(async () => {
  const file = await services().projectFiles.exportFile();
  if (!file.ok) return problem(file.problem);
  const { name, zip } = file.value;
  const plain = name.replace(/[^A-Za-z0-9 ,._-]/g, '-');
  return new Response(zip, {
    headers: {
      'content-type': 'application/zip',
      'content-disposition': `attachment; filename="${plain}.mill-latch.zip"; filename*=UTF-8''${encodeURIComponent(name)}.mill-latch.zip`,
      'cache-control': 'no-store',
    },
  });
});
