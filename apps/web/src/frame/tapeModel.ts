import type { Mark, TapeAnswer } from '@zetopsis/contract';
import { DAY, HOUR, MINUTE } from '@zetopsis/core/units';

/** Time ↔ place on a band of this width. */
export interface Scale {
  readonly from: number;
  readonly to: number;
  readonly width: number;
}
export const xOf = ({ from, to, width }: Scale, at: number): number => ((at - from) / (to - from)) * width;
export const timeAt = ({ from, to, width }: Scale, x: number): number =>
  from + (Math.max(0, Math.min(width, x)) / width) * (to - from);

/** How much time a stretch of the band is. */
export const timeOf = ({ from, to, width }: Scale, length: number): number => (length / width) * (to - from);

const TICK_STEPS = [
  5 * MINUTE,
  15 * MINUTE,
  30 * MINUTE,
  HOUR,
  2 * HOUR,
  4 * HOUR,
  6 * HOUR,
  12 * HOUR,
  DAY,
  2 * DAY,
  7 * DAY,
];

/** Round local times, at most one every 76 px. */
export function ticksOf(scale: Scale): { at: number; x: number; text: string }[] {
  const most = Math.max(2, Math.floor(scale.width / 76));
  const step = TICK_STEPS.find((candidate) => (scale.to - scale.from) / candidate <= most) ?? 14 * DAY;
  const zone = new Date(scale.from).getTimezoneOffset() * MINUTE;
  const format = new Intl.DateTimeFormat(
    'en-GB',
    step >= DAY ? { day: 'numeric', month: 'short' } : { hour: '2-digit', minute: '2-digit' },
  );
  const ticks: { at: number; x: number; text: string }[] = [];
  for (let at = Math.ceil((scale.from - zone) / step) * step + zone; at <= scale.to; at += step)
    ticks.push({ at, x: xOf(scale, at), text: format.format(at) });
  return ticks;
}

/** The load as a path from 0 at the bottom; a piece for every stretch without holes. */
export function loadPath({
  tapeAnswer: { grid, load },
  scale,
  top,
  bottom,
}: {
  readonly tapeAnswer: TapeAnswer;
  readonly scale: Scale;
  readonly top: number;
  readonly bottom: number;
}): string {
  const highest = Math.max(...load.map((value) => value ?? 0), 1e-9) * 1.1;
  let path = '';
  let drawing = false;
  load.forEach((value, i) => {
    if (value === null) {
      drawing = false;
      return;
    }
    const x = xOf(scale, grid.start + i * grid.step);
    path += `${drawing ? 'L' : 'M'}${x.toFixed(1)} ${(bottom - (value / highest) * (bottom - top)).toFixed(1)}`;
    drawing = true;
  });
  return path;
}

/** The time before anything was read at all; null when the span begins with data. */
export function neverReadUntil({ grid, load }: TapeAnswer): number | null {
  const first = load.findIndex((value) => value !== null);
  return first === 0 ? null : first < 0 ? grid.start + grid.count * grid.step : grid.start + first * grid.step;
}

export interface MarkGroup {
  /** Its middle. */
  readonly x: number;
  readonly width: number;
  readonly marks: readonly Mark[];
}
const SIGN = 18;
const DIGIT = 6;
/** A sign, and beside it how many there are. */
const widthOf = (count: number): number => SIGN + (count > 1 ? DIGIT * String(count).length : 0);

/** Marks as they stand on the band: none over another, none past its edges; those that would be stand as one. */
export function groupMarks(marks: readonly Mark[], scale: Scale): MarkGroup[] {
  const groups: { x: number; width: number; marks: Mark[] }[] = [];
  const within = (x: number, width: number) => Math.max(width / 2, Math.min(scale.width - width / 2, x));
  for (const mark of [...marks].sort((a, b) => a.at - b.at)) {
    const at = xOf(scale, mark.at);
    if (at < 0 || at > scale.width) continue;
    groups.push({ x: within(at, SIGN), width: SIGN, marks: [mark] });
    // a group that grew may reach the one before
    for (let last = groups.at(-1)!, before = groups.at(-2); before; last = before, before = groups.at(-2)) {
      if (last.x - before.x >= (last.width + before.width) / 2) break;
      groups.pop();
      before.marks.push(...last.marks);
      before.width = widthOf(before.marks.length);
      before.x = within(before.x, before.width);
    }
  }
  return groups;
}

const WEIGHT: Record<Mark['kind'], number> = {
  raised: 6,
  'out of memory': 5,
  'pod lost': 4,
  'node change': 4,
  'run failed': 4,
  rollout: 3,
  'config change': 2,
  'new link': 2,
  'gone link': 2,
  restart: 2,
  scaled: 1,
  revision: 1,
  cleared: 0,
};
export function leading(group: MarkGroup): Mark {
  return group.marks.reduce((lead, mark) => {
    const heavier =
      WEIGHT[mark.kind] - WEIGHT[lead.kind] ||
      Number(mark.severity === 'critical') - Number(lead.severity === 'critical');
    return heavier > 0 ? mark : lead;
  });
}

/** Earlier marks of the same kind about the same object, newest first: moments that a window can be aligned at. */
export function earlierLike(marks: readonly Mark[], mark: Mark): Mark[] {
  return marks
    .filter(
      (other) =>
        other.kind === mark.kind && other.at < mark.at - 60_000 && other.path.join('/') === mark.path.join('/'),
    )
    .sort((a, b) => b.at - a.at);
}
