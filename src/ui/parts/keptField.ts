/**
 * What a field needs whose text is kept when it is left or Enter is pressed, and put back by Escape; so is one that was
 * refused. The field's key must be its value, so that it is another one once the value is.
 */
import type { FocusEvent, KeyboardEvent } from 'react';

/**
 * @param onKeep settles once it is known whether the text was taken
 * @param isNeeded an empty text is put back
 */
export function keptField(value: string, onKeep: (text: string) => unknown, isNeeded = false) {
  const keep = async (input: HTMLInputElement): Promise<void> => {
    const text = input.value.trim();
    if (text !== value && !(isNeeded && text === '')) await onKeep(text);
    if (input.isConnected && input.value !== value) input.value = value;
  };
  return {
    defaultValue: value,
    onBlur: (e: FocusEvent<HTMLInputElement>): void => void keep(e.target),
    onKeyDown: (e: KeyboardEvent<HTMLInputElement>): void => {
      if (e.key === 'Enter') e.currentTarget.blur();
      if (e.key !== 'Escape' || e.currentTarget.value === value) return;
      e.preventDefault();
      e.currentTarget.value = value;
      e.currentTarget.blur();
    },
  };
}
