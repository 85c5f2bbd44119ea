import { object, string } from 'yup';
import { UUID } from '@/core/patterns.ts';
import { answer, guarded, readQuery } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

const QUERY = object({ panel: string().matches(UUID, 'An id must be a UUID.').required('Say which panel.') });

export const GET = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const query = readQuery(request, QUERY);
  return answer(query.ok ? await services().hosting.compare((await context.params).id, query.value.panel) : query);
});
