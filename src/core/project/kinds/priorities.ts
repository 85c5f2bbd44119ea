/** From what has to be seen to first. IEC 62682 advises three or four. */
export const PRIORITIES = ['critical', 'high', 'medium', 'low'] as const;
export type Priority = (typeof PRIORITIES)[number];
