interface Waiting<T> {
  readonly one: T;
  readonly done: (fresh: boolean) => void;
  readonly failed: (error: unknown) => void;
}

/** What comes to be journalled: everything that waits goes into one commit, the next one gathers what came meanwhile. */
export class CommitLane<T extends { readonly bytes: number }> {
  private waiting: Waiting<T>[] = [];
  private bytes = 0;
  private writing = false;

  /**
   * `commit` answers of each whether it is new, once all are durable; `after` is waited for before others are taken: memory that is
   * full is emptied there.
   */
  constructor(
    private readonly commit: (some: readonly T[]) => Promise<readonly boolean[]>,
    private readonly after: () => Promise<void>,
    /** Bytes that go into one commit, and that may wait. */
    private readonly limits: { readonly atOnce: number; readonly waiting: number },
  ) {}

  get isFull(): boolean {
    return this.bytes > this.limits.waiting;
  }
  async push(one: T): Promise<boolean> {
    this.bytes += one.bytes;
    try {
      return await new Promise<boolean>((done, failed) => {
        this.waiting.push({ one, done, failed });
        void this.write();
      });
    } finally {
      this.bytes -= one.bytes;
    }
  }
  private async write(): Promise<void> {
    if (this.writing) return;
    this.writing = true;
    try {
      while (this.waiting.length > 0) {
        let bytes = 0;
        const end = this.waiting.findIndex(({ one }, i) => {
          bytes += one.bytes;
          return i > 0 && bytes > this.limits.atOnce;
        });
        const some = this.waiting.splice(0, end < 0 ? this.waiting.length : end);
        try {
          const fresh = await this.commit(some.map(({ one }) => one));
          some.forEach(({ done }, i) => void done(fresh[i]!)); // one for each
        } catch (error) {
          for (const { failed } of some) failed(error);
        }
        await this.after();
      }
    } finally {
      this.writing = false;
    }
  }
}
