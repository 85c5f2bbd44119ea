import { object, string } from 'yup';
import { MOST_PHOTO_BYTES } from '@/core/check/photo.ts';
import { LONGEST_NOTE } from '@/core/check/run.ts';
import { answer, guarded, readFile, readQuery } from '../../../../../../../http/answers.ts';
import { services } from '../../../../../../../http/services.ts';

const QUERY = object({
  who: string().trim().max(60, 'The name is too long.').required('Say who took it.'),
  words: string().max(LONGEST_NOTE, `At most ${LONGEST_NOTE} characters.`),
});

/** A photo of what was seen at a tag. */
export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string; tagId: string }> }) => {
  const query = readQuery(request, QUERY);
  if (!query.ok) return answer(query);
  const file = await readFile(request, MOST_PHOTO_BYTES);
  if (!file.ok) return answer(file);
  const { id, tagId } = await context.params;
  const { who, words = '' } = query.value;
  return answer(await services().runs.keepPhoto(id, tagId, who, words.trim(), file.value));
});
