/** Changes of a project that say what texts are in other languages. */
import { v7 as uuid } from 'uuid';
import type { TextChange } from '@/core/panel/textTable.ts';
import type { Change } from '@/core/project/command.ts';
import type { Translation } from '@/core/project/entities.ts';

interface Translated {
  translation(code: string, source: string): Translation | null;
}

export function translationChanges(project: Translated, changes: readonly TextChange[]): readonly Change[] {
  return changes.map(({ language, source, after }) => {
    const known = project.translation(language, source);
    return { kind: 'translation', id: known?.id ?? uuid(), set: known ? { text: after } : { language, source, text: after } };
  });
}
