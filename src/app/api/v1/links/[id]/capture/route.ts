import { problem } from '../../../../http/answers.ts';
import { guarded } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

/** The frames of a link that are kept, as a capture file or as text. */
export const GET = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const form = new URL(request.url).searchParams.get('form') === 'text' ? 'text' : 'pcap';
  const made = services().traces.capture((await context.params).id, form);
  if (!made.ok) return problem(made.problem);
  const { bytes, fileName, type } = made.value;
  const headers = { 'content-type': type, 'content-disposition': `attachment; filename="${fileName}"`, 'cache-control': 'no-store' };
  return new Response(bytes as Uint8Array<ArrayBuffer>, { headers });
});
