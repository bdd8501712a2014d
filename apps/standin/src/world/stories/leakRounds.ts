import { LEAKING } from '../scenario/index.ts';

const HOUR = 3_600_000;

/** Story 1 in figures: a round lasts 9 h from start to end; the stories begin when 92 % of the limit is used. */
export class LeakRounds {
  readonly length: number;
  /** How long the ended container waits before it is started again. */
  readonly rest: number;
  private readonly firstStart: number;

  constructor(start: number, pace: number) {
    this.length = (9 * HOUR) / pace;
    this.rest = Math.max(500, (20_000 / pace) * 4);
    const share = (0.92 * LEAKING.limit - LEAKING.base) / (LEAKING.limit - LEAKING.base);
    this.firstStart = start - share * this.length;
  }

  /** When the container that runs at `at` was started, and how many rounds ended before. */
  at(at: number): { started: number; round: number } {
    const round = Math.floor((at - this.firstStart) / (this.length + this.rest));
    return { started: this.firstStart + round * (this.length + this.rest), round };
  }
  memoryAt(at: number): number {
    const share = Math.min(1, (at - this.at(at).started) / this.length);
    return Math.round(LEAKING.base + (LEAKING.limit - LEAKING.base) * share);
  }
}
