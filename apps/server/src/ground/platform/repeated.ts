/** Work that is done again and again, never twice at once: the wait is from the end of one to the beginning of the next. */
export class Repeated {
  private timer: NodeJS.Timeout | null = null;
  private running: Promise<unknown> = Promise.resolve();
  private over = false;
  /** `wait` in ms. The work tells of its own failures: one that it does not tell of is an error nobody caught, and it goes on. */
  constructor(
    private readonly work: () => unknown,
    private readonly wait: number,
  ) {}

  /** The first one after so many ms. */
  begin(after = this.wait): void {
    if (this.over) return;
    this.timer = setTimeout(() => {
      this.running = Promise.resolve().then(this.work);
      void this.running.finally(() => this.begin());
    }, after);
  }
  /** What goes on for long looks whether it is to end. */
  get ending(): boolean {
    return this.over;
  }
  /** Resolves once what is under way has ended. */
  async stop(): Promise<void> {
    this.over = true;
    if (this.timer) clearTimeout(this.timer);
    await this.running.catch(() => undefined); // it was told already
  }
}
