/** Messages between the server and a thread of long work. What is asked has a number, and is answered under it. */
export type Numbered<Ask> = { readonly id: number } & Ask;
export type ThreadReply =
  | { readonly kind: 'progress'; readonly doing: string; readonly part: number }
  | { readonly kind: 'done'; readonly id: number; readonly value: unknown }
  | { readonly kind: 'failed'; readonly id: number; readonly error: string };
/** What is being done, and which part of it is done (0 to 1). */
export type Progress = (doing: string, part: number) => void;
