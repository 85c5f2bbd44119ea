import { ok } from '@/core/result.ts';
import { toJson } from '@/core/value/engineering.ts';
import { statusName } from '@/core/value/quality.ts';
import { answer, guarded, isFromAfar } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

/** Newest values by tag name, for scripts. */
export const GET = guarded(async (request: Request) => {
  const { model, engine } = services();
  const onlyDoubtful = new URL(request.url).searchParams.get('doubtful') === '1';
  const values = model.all('tag').flatMap((tag) => {
    if (isFromAfar(request) && !services().panels.isShown(tag.id)) return [];
    const sample = engine.live.get(tag.id);
    if (onlyDoubtful && sample?.quality.level === 'good') return [];
    return {
      name: tag.name,
      tagId: tag.id,
      value: sample?.eng === undefined || sample.eng === null ? null : toJson(sample.eng),
      text: sample?.text ?? '',
      unit: tag.unit,
      quality: sample?.quality.level ?? 'bad',
      status: sample ? statusName(sample.quality) : 'Bad_WaitingForInitialData',
      reason: sample ? sample.quality.reason : 'waiting',
      limit: sample?.limit ?? null,
      wasGood: engine.live.wasGood(tag.id),
      at: sample?.at ?? null,
    };
  });
  return answer(ok({ serverTime: engine.clock.now(), values }));
});
