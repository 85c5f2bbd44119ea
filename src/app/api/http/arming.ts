/** A person lets a copy rule copy, or stops it: both are in the audit trail. */
import type { CopyStatus } from '@/core/live/copyStatus.ts';
import type { Result } from '@/core/result.ts';
import { answer, guarded, readBody } from './answers.ts';
import { audited } from './audited.ts';
import { WHO_BODY } from './bodies.ts';
import { services } from './services.ts';

export const arming = (kind: 'armed' | 'disarmed', done: (ruleId: string, who: string) => Result<CopyStatus>) =>
  guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
    const body = await readBody(request, WHO_BODY);
    if (!body.ok) return answer(body);
    const { id } = await context.params;
    const { who } = body.value;
    return answer(audited(done(id, who), kind, who, () => `the copy rule ${services().model.get('copyRule', id)?.name ?? id}`));
  });
