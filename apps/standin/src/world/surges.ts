import type { WorldOptions } from './inhabited.ts';
import { DAY, HOUR } from './scenario/index.ts';

/** From this moment on the load is this many times the usual. */
interface Step {
  readonly from: number;
  readonly factor: number;
}

/** Story 2: booking-front's load rises twice a day; the rush that is on at the start began two hours before. */
const RUSHING = { namespace: 'ticketing', name: 'booking-front' };
const RISES = [
  { from: 7 * HOUR, to: 9 * HOUR },
  { from: 16 * HOUR, to: 18 * HOUR },
];
const RISE = 1.6;
const RUSH = { before: 2 * HOUR, after: 3 * HOUR, factor: 2.4 };
const DAYS_BACK = 43;

/** How many times the usual load workloads have, in steps: from the story, and from whoever drives load. */
export class Surges {
  private readonly options: WorldOptions;
  private readonly driven = new Map<string, Step[]>();
  private readonly story: readonly Step[];

  constructor(options: WorldOptions) {
    this.options = options;
    this.story = options.plan.stories.has('rush') ? this.rushes() : [];
  }

  private rushes(): Step[] {
    const { start, pace } = this.options;
    const steps: Step[] = [];
    const rush = { from: start - RUSH.before / pace, to: start + RUSH.after / pace };
    const outside = (at: number) => at < rush.from || at > rush.to;
    const firstDay = Math.floor(start / DAY) - DAYS_BACK;
    for (let day = firstDay; day < firstDay + DAYS_BACK + 8; day++)
      for (const { from, to } of RISES) {
        if (outside(day * DAY + from)) steps.push({ from: day * DAY + from, factor: RISE });
        if (outside(day * DAY + to)) steps.push({ from: day * DAY + to, factor: 1 });
      }
    steps.push({ from: rush.from, factor: RUSH.factor }, { from: rush.to, factor: 1 });
    return steps.sort((a, b) => a.from - b.from);
  }

  /** Sets the load of a workload from now on; 1 is the usual. */
  drive({
    namespace,
    name,
    factor,
    at,
  }: {
    readonly namespace: string;
    readonly name: string;
    readonly factor: number;
    readonly at: number;
  }): string | null {
    if (!(factor >= 0 && factor <= 100)) return 'the factor is from 0 to 100';
    const key = `${namespace}/${name}`;
    const steps = this.driven.get(key) ?? [];
    this.driven.set(key, [...steps, { from: at, factor }]);
    return null;
  }
  drivenNow(): { workload: string; factor: number }[] {
    return [...this.driven].map(([workload, steps]) => ({ workload, factor: steps.at(-1)?.factor ?? 1 }));
  }

  factorAt(namespace: string, name: string, at: number): number {
    const told = (steps: readonly Step[]) => steps.findLast(({ from }) => from <= at)?.factor ?? 1;
    return told(this.stepsOf(namespace, name)) * told(this.driven.get(`${namespace}/${name}`) ?? []);
  }
  /** Stretches of one factor each that make up a stretch of time. */
  pieces({
    namespace,
    name,
    from,
    to,
  }: {
    readonly namespace: string;
    readonly name: string;
    readonly from: number;
    readonly to: number;
  }): { from: number; to: number; factor: number }[] {
    const edges = [...this.stepsOf(namespace, name), ...(this.driven.get(`${namespace}/${name}`) ?? [])]
      .map((step) => step.from)
      .filter((at) => at > from && at < to)
      .sort((a, b) => a - b);
    const bounds = [from, ...edges, to];
    return bounds
      .slice(1)
      .map((end, i) => ({ from: bounds[i]!, to: end, factor: this.factorAt(namespace, name, bounds[i]!) }));
  }
  private stepsOf(namespace: string, name: string): readonly Step[] {
    return namespace === RUSHING.namespace && name === RUSHING.name ? this.story : [];
  }
}
