/** Plans changes of a model in a test, and takes them over. */
import type { Change } from '@/core/project/command.ts';
import type { PlannedChange, ProjectModel } from '@/model/projectModel.ts';

/** @param model the one of the test that runs */
export function planning(model: () => ProjectModel) {
  const planned = (...changes: readonly Change[]): readonly PlannedChange[] => {
    const plan = model().plan(changes);
    if (!plan.ok) throw new Error(`${plan.problem.place}: ${plan.problem.message}`);
    return plan.value;
  };
  return {
    planned,
    apply: (...changes: readonly Change[]): void => model().apply(planned(...changes)),
    /** The code of the problem, `fits` where there is none. */
    code: (...changes: readonly Change[]): string => {
      const plan = model().plan(changes);
      return plan.ok ? 'fits' : plan.problem.code;
    },
  };
}
