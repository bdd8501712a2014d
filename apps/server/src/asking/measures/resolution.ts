import type { MeasureInput, RetentionKept } from '@zetopsis/contract';
import { formatCount, formatDuration } from '@zetopsis/core/format';
import {
  looksAtFigures,
  MOST_MOMENTS,
  type Plan,
  printStep,
  rollsUpExactly,
  stepOfSamples,
} from '@zetopsis/core/measures';
import { DAY, type DurationMs, type EpochMs } from '@zetopsis/core/units';
import type { z } from 'zod';
import { Refusal } from '../../ground/platform/refusals.ts';
import { FIVES_FROM, HOURS_FROM, type Resolution, TIERS, type Tier } from '../../keeping/store/tiers.ts';

/** Nobody's question reads more. */
export const MOST_SAMPLES = 8_000_000;
const POINTS = 400;
const LONGEST_WINDOW = 400 * DAY;

export const wrongMeasure = (text: string): Refusal => new Refusal('invalid', text, [{ path: 'text', text }]);

/** The moments that somebody asks for: a grid or one instant, none of them later than now. */
export function momentsOf({ from, to, step, at }: z.infer<typeof MeasureInput>, now: EpochMs): Float64Array {
  if (at !== undefined) return Float64Array.of(Math.min(at, now));
  const end = Math.min(to!, now); // one of both is there: the schema says so
  const begin = from!;
  if (end <= begin) throw new Refusal('invalid', 'The window lies in the future. Choose an earlier one.');
  if (end - begin > LONGEST_WINDOW) throw new Refusal('invalid', 'The window is longer than 400 days.');
  // of long windows the moments are borders of roll-ups, which then say just what the samples do
  const round =
    step !== undefined || end - begin <= FIVES_FROM ? 1000 : TIERS[end - begin > HOURS_FROM ? 'hour' : 'five'].bucket;
  const wanted = step ?? Math.max(round, Math.ceil((end - begin) / POINTS / round) * round);
  const last = round > 1000 ? Math.floor(end / round) * round : end;
  const count = Math.floor((last - begin) / wanted) + 1;
  return Float64Array.from({ length: count }, (_, i) => last - (count - 1 - i) * wanted);
}

export interface Resolved {
  readonly resolution: Resolution;
  /** What is said of it beside the answer. */
  readonly note: string | null;
}
/** Samples, as long as they are kept and not too many; roll-ups where these say the same, and where nothing else is left. */
export function resolutionFor({
  plan,
  times,
  oldest,
  now,
  intervals,
  kept: { samplesDays, fiveMinutesDays },
}: {
  readonly plan: Plan;
  readonly times: Float64Array;
  /** What is read begins here. */
  readonly oldest: EpochMs;
  readonly now: EpochMs;
  /** Of each series that is read. */
  readonly intervals: readonly DurationMs[];
  readonly kept: Pick<z.infer<typeof RetentionKept>, 'samplesDays' | 'fiveMinutesDays'>;
}): Resolved {
  const length = times.at(-1)! - oldest;
  const from = (tier: Tier, why: string): Resolved => {
    const { bucket } = TIERS[tier];
    const exact = rollsUpExactly(plan, times, bucket);
    const note = `Read from roll-ups of ${formatDuration(bucket)}`;
    return { resolution: tier, note: `${note}${exact ? '' : `: ${why}, and stretches begin and end where these do`}.` };
  };
  const exact = (tier: Tier) => rollsUpExactly(plan, times, TIERS[tier].bucket);
  const step = stepOfSamples(plan);
  if (now - oldest <= samplesDays * DAY) {
    if (length > FIVES_FROM && exact('five')) return from('five', '');
    const tooMany =
      intervals.reduce((sum, interval) => sum + length / interval, 0) > MOST_SAMPLES ||
      (looksAtFigures(plan) && length > MOST_MOMENTS * Math.min(...intervals));
    return tooMany && step === null
      ? from('five', 'of samples there are more than one question may read')
      : { resolution: 'samples', note: null };
  }
  if (step !== null)
    throw wrongMeasure(
      `“${printStep(step)}” looks at the samples themselves, which are kept for ${formatCount(samplesDays, 'day')}; of what is older there are roll-ups. Choose a window that begins later, or another step: average, highest, lowest, latest, total, count, deviation, change, growth and per second are known of these.`,
    );
  const hours =
    now - oldest > fiveMinutesDays * DAY ||
    (length > HOURS_FROM && exact('hour')) ||
    (intervals.length * length) / TIERS.five.bucket > MOST_SAMPLES;
  return from(hours ? 'hour' : 'five', 'what is older is kept so');
}
