import { Injectable } from '@nestjs/common';
import type { FamilyOut, SampleOut } from '@zetopsis/core/exposition';

type Labels = Readonly<Record<string, string>>;
type Give = () => readonly FamilyOut[] | Promise<readonly FamilyOut[]>;

/** Figures of Zetopsis itself: whoever has some hands them in, and its page tells them all. */
@Injectable()
export class OwnFigures {
  private readonly givers: Give[] = [];
  onAsked(give: Give): void {
    this.givers.push(give);
  }
  /** Those that cannot be told now are left out. */
  async all(failed: (error: unknown) => void): Promise<FamilyOut[]> {
    const given = await Promise.all(
      this.givers.map(async (give) => {
        try {
          return await give();
        } catch (error) {
          failed(error);
          return [];
        }
      }),
    );
    return given.flat();
  }
}

interface Told {
  /** Without the unit, which is put behind it. */
  readonly name: string;
  readonly unit?: string;
  readonly help: string;
  readonly samples: number | readonly SampleOut[];
}
const family = (type: 'gauge' | 'counter', { name, unit = '', help, samples }: Told): FamilyOut => ({
  name: `zetopsis_${name}${unit === '' ? '' : `_${unit}`}`,
  type,
  unit,
  help,
  samples: typeof samples === 'number' ? [{ labels: {}, value: samples }] : samples,
});
export const gauge = (told: Told): FamilyOut => family('gauge', told);
/** What only grows, since the start. */
export const counter = (told: Told): FamilyOut => family('counter', told);

/** Seconds up to which what took so long is counted, but for what took longer. */
const BOUNDS = [0.01, 0.05, 0.25, 1, 2.5, 10] as const;
/** What has other labels after so many is counted together. */
const MOST = 500;
interface Own {
  readonly labels: Labels;
  readonly counts: number[];
  seconds: number;
}
/** How long things took. */
export class Durations {
  private readonly own = new Map<string, Own>();
  constructor(
    private readonly name: string,
    private readonly help: string,
  ) {}

  note(labels: Labels, seconds: number): void {
    const key = JSON.stringify(labels);
    const known = this.own.get(key);
    if (!known && this.own.size >= MOST) return;
    const own = known ?? { labels, counts: BOUNDS.map(() => 0).concat(0), seconds: 0 };
    this.own.set(key, own);
    const at = BOUNDS.findIndex((bound) => seconds <= bound);
    own.counts[at < 0 ? BOUNDS.length : at]!++; // it has one for each, and one more
    own.seconds += seconds;
  }
  get family(): FamilyOut {
    return {
      name: `zetopsis_${this.name}_seconds`,
      type: 'histogram',
      unit: 'seconds',
      help: this.help,
      samples: [...this.own.values()].flatMap(({ labels, counts, seconds }) => {
        let below = 0;
        const buckets = counts.map((count, i): SampleOut => {
          below += count;
          const bound = BOUNDS[i];
          const le = bound === undefined ? '+Inf' : Number.isInteger(bound) ? `${bound}.0` : `${bound}`;
          return { ending: '_bucket', labels: { ...labels, le }, value: below };
        });
        return [...buckets, { ending: '_count', labels, value: below }, { ending: '_sum', labels, value: seconds }];
      }),
    };
  }
}
