/**
 * One press at a time: while one is on its way only the newest waits, so that what was wanted last is written last,
 * whatever order answers come in. After one that failed nothing that waited is sent: a press is never kept for later.
 */
export class OneOnTheWay {
  private waiting: (() => Promise<boolean>) | null = null;
  private isBusy = false;

  /** @param whenQuiet  called when all that was wanted has been answered */
  constructor(private readonly whenQuiet: () => void) {}

  /** @param send  answers whether it was taken; it must not throw */
  want(send: () => Promise<boolean>): void {
    this.waiting = send;
    if (!this.isBusy) void this.run();
  }

  /** What waits is not sent any more; what is on its way is. */
  drop(): void {
    this.waiting = null;
  }

  private async run(): Promise<void> {
    this.isBusy = true;
    while (this.waiting) {
      const send = this.waiting;
      this.waiting = null;
      if (!(await send())) this.waiting = null;
    }
    this.isBusy = false;
    this.whenQuiet();
  }
}
