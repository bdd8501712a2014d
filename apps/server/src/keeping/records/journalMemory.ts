import pLimit from 'p-limit';

/**
 * What stands in memory beside a journal. What changes both is done one after the other; where it is not known what came of it, and when
 * another process wrote, memory is read anew from the journal before anything else is done.
 */
export class JournalMemory {
  private isLoaded = false;
  private readonly exclusive = pLimit(1);
  /** Another one each time that it was read. */
  generation = 0;

  /** `load` empties memory first. */
  constructor(private readonly load: () => Promise<void>) {}

  forget(): void {
    this.isLoaded = false;
  }
  /** Everything that is journalled stands in memory once this has returned. */
  async ready(): Promise<void> {
    if (!this.isLoaded) await this.exclusive(() => this.read());
  }
  change<T>(work: () => Promise<T>): Promise<T> {
    return this.exclusive(async () => {
      await this.read();
      try {
        return await work();
      } catch (error) {
        this.forget();
        throw error;
      }
    });
  }
  private async read(): Promise<void> {
    if (this.isLoaded) return;
    this.generation++;
    await this.load();
    this.isLoaded = true;
  }
}
