/** Answers of checks: what a person entered goes into the audit trail; reports are files, HTML is shown. */
import { outcomeInWords, type CheckResult } from '@/core/check/proof.ts';
import type { Result } from '@/core/result.ts';
import type { Witness } from '@/services/checks/checkService.ts';
import { string, object } from 'yup';
import { REPORT_FORMATS, type ReportFormat } from '@/core/check/report/formats.ts';
import { answer, answerFile, readQuery } from './answers.ts';
import { audited } from './audited.ts';
import { services } from './services.ts';

export function answerChecked(tagId: string, witness: Witness, done: Result<CheckResult>): Response {
  if (witness.kind !== 'typed') return answer(done);
  const name = services().model.get('tag', tagId)?.name ?? tagId;
  return answer(
    audited(done, 'checked', witness.who, ({ text, proof }) => `${name}: entered “${witness.text}”, shown was “${text}”; ${outcomeInWords(proof)}`),
  );
}

const REPORT_QUERY = object({ format: string<ReportFormat>().oneOf(REPORT_FORMATS, `The format is one of ${REPORT_FORMATS.join(', ')}.`) });

export async function answerReport(request: Request, runId: string | null): Promise<Response> {
  const query = readQuery(request, REPORT_QUERY);
  if (!query.ok) return answer(query);
  const made = await services().reports.make(runId, query.value.format ?? 'html');
  if (!made.ok) return answer(made);
  const { name, type, bytes } = made.value;
  if (type.startsWith('text/html'))
    return new Response(bytes as BodyInit, {
      headers: {
        'content-type': type,
        'cache-control': 'no-store',
        'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; img-src data:",
      },
    });
  return answerFile({ name, type, bytes: bytes as BodyInit });
}
