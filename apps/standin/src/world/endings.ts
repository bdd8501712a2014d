import { existsSync, readFileSync, writeFileSync } from 'node:fs';

/** A container that was ended on demand and started again: its pod, how often by now, and how the last time. */
export interface Ending {
  readonly namespace: string;
  readonly pod: string;
  readonly uid: string;
  readonly restarts: number;
  readonly exitCode: number;
  readonly reason: string;
  /** When it had begun and ended, and when it began again. */
  readonly startedAt: string;
  readonly finishedAt: string;
  readonly since: number;
}

/** What a stand-in that is started anew must know of before, so that a counter never goes on as if nothing had been. */
export class Endings {
  private readonly known = new Map<string, Ending>();
  private readonly file: string | null;

  /** Null: nothing is kept beyond this process. */
  constructor(file: string | null) {
    this.file = file;
    if (file === null || !existsSync(file)) return;
    for (const ending of JSON.parse(readFileSync(file, 'utf8')) as Ending[]) this.known.set(ending.uid, ending); // our own file
  }
  list(): Ending[] {
    return [...this.known.values()];
  }
  note(ending: Ending): void {
    this.known.set(ending.uid, ending);
    if (this.file !== null) writeFileSync(this.file, JSON.stringify(this.list()), { mode: 0o600 });
  }
}
