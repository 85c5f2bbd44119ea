/** Waits until something holds, for at most a time; then says what was waited for. */
export async function until(what: string, holds: () => boolean | Promise<boolean>, ms = 20_000): Promise<void> {
  const end = Date.now() + ms;
  while (!(await holds())) {
    if (Date.now() > end) throw new Error(`waited ${ms} ms in vain until ${what}`);
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}
