/** Errors of a form by the path of their field, and problems that the server found brought to their field. */
import { get, type FieldErrors, type FieldValues, type Path, type UseFormReturn } from 'react-hook-form';
import type { Problem } from '@/core/result.ts';

/** The message at a field, such as `settings.port`. */
export function errorAt(errors: FieldErrors, path: string): string | undefined {
  const message: unknown = get(errors, `${path}.message`);
  return typeof message === 'string' ? message : undefined;
}

/**
 * Shows a problem of the server at the field that its place ends with (`tag 0192… address`, `settings.port`), or
 * at the first field when the form has no such one.
 */
export function showProblem<T extends FieldValues>(form: UseFormReturn<T, unknown, FieldValues>, problem: Problem, fields: readonly Path<T>[]): void {
  const wanted = (problem.place ?? '').split(' ').at(-1) ?? '';
  const at = fields.find((field) => field === wanted) ?? fields[0];
  if (at) form.setError(at, { message: `${problem.message} ${problem.remedy ?? ''}`.trim() });
}
