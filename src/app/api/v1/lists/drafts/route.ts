import { UUID } from '@/core/patterns.ts';
import { object, string } from 'yup';
import { MAX_LIST_BYTES } from '@/core/taglist/limits.ts';
import { answer, guarded, problem, readFile, readQuery } from '../../../http/answers.ts';
import { id } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

const QUERY = object({
  deviceId: id('The device'),
  fileName: string().min(1).max(200, 'The file name has at most 200 characters.').required('The file name is missing.'),
  sourceId: string().matches(UUID, 'The source must be a UUID.'),
});

export const POST = guarded(async (request: Request) => {
  const query = readQuery(request, QUERY);
  if (!query.ok) return problem(query.problem);
  services().lists.warm();
  const file = await readFile(request, MAX_LIST_BYTES);
  if (!file.ok) return problem(file.problem);
  const { deviceId, fileName, sourceId = null } = query.value;
  return answer(await services().lists.open({ deviceId, fileName, sourceId }, file.value));
});
