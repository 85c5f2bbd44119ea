import { guarded } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

export const GET = guarded(async () => {
  const { name, zip } = await services().projectFiles.exportFile();
  const plain = name.replace(/[^A-Za-z0-9 ,._-]/g, '-');
  return new Response(new Uint8Array(zip), {
    headers: {
      'content-type': 'application/zip',
      'content-disposition': `attachment; filename="${plain}.mill-latch.zip"; filename*=UTF-8''${encodeURIComponent(name)}.mill-latch.zip`,
      'cache-control': 'no-store',
    },
  });
});
