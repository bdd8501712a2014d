import { LINK_BOUNDS, type LinkEnd } from '@zetopsis/core/links';
import { seeded } from '@zetopsis/core/trend';
import { type EpochMs, MINUTE } from '@zetopsis/core/units';
import type { ReadLine, ReadLinks, ReadUsual } from '../map/index.ts';
import { fivesUpTo, minutesUpTo } from '../map/index.ts';

/** What goes wrong between programs, made up. */
export const INCIDENTS = ['down', 'cut', 'failing', 'slow', 'slow way', 'lossy way', 'closed way', 'flood'] as const;
export type IncidentKind = (typeof INCIDENTS)[number];
export interface Incident {
  readonly kind: IncidentKind;
  /** The link that it is about; of `down`, `failing` and `slow` any link to its answerer. */
  readonly from: number;
  readonly to: number;
  /** The minute in which it begins. */
  readonly begins: number;
  /** Before it: what nearly all of its requests stayed below, and how many there were a minute. */
  readonly usualSeconds: number;
  readonly perMinute: number;
}
interface Program {
  readonly name: string;
  /** Seconds of its own: the middle of them. */
  readonly own: number;
  readonly fails: number;
  /** Whom it calls for one request in so many. */
  readonly calls: readonly { readonly to: number; readonly share: number }[];
}
/** Programs that call each other, in layers. */
export interface MadeWorld {
  readonly programs: readonly Program[];
  /** Those that are asked from outside, and how often a minute. */
  readonly fronts: readonly { readonly program: number; readonly perMinute: number }[];
}
const OUTSIDE = -1;
const NETWORK = 0.002;
/** Seconds that a caller waits for an answer that does not come. */
const GIVES_UP = 1;

/** `night`: little is asked, and by fits and starts. */
export function makeWorld(seed: number, night = false): MadeWorld {
  const random = seeded(seed);
  const layers = 3 + Math.floor(random() * 3);
  const ofLayer: number[][] = [];
  const programs: Program[] = [];
  for (let layer = 0; layer < layers; layer++) {
    const size = layer === 0 ? 1 + Math.floor(random() * 3) : 2 + Math.floor(random() * 4);
    ofLayer.push(Array.from({ length: size }, (_, i) => programs.length + i));
    for (let i = 0; i < size; i++)
      programs.push({
        name: `program-${layer}-${i}`,
        own: 0.005 * 16 ** random(),
        fails: 0.0005 + 0.008 * random() ** 3,
        calls: [],
      });
  }
  for (const [layer, own] of ofLayer.entries())
    for (const program of own) {
      const below = ofLayer.slice(layer + 1).flat();
      const calls = below
        .map((to) => ({ to, at: random() }))
        .sort((a, b) => a.at - b.at)
        .slice(0, 1 + Math.floor(random() * 3))
        .map(({ to }) => ({ to, share: 0.3 + 0.7 * random() }));
      programs[program] = { ...programs[program]!, calls }; // it was pushed above
    }
  return {
    programs,
    fronts: ofLayer[0]!.map((program) => ({ program, perMinute: night ? 1 + 8 * random() : 30 + 90 * random() })),
  };
}

interface Counted {
  requests: number;
  failures: number;
  refused: number;
  seconds: number[];
  own: number;
}
type Sides = Record<'caller' | 'answerer', Counted>;
const nothing = (): Counted => ({ requests: 0, failures: 0, refused: 0, seconds: [], own: 0 });

/** Requests of a world, one by one, minute by minute; what both sides of every link saw of them. */
export class Simulation {
  private readonly minutes: Map<string, Sides>[] = [];
  private readonly random: () => number;

  constructor(
    private readonly world: MadeWorld,
    seed: number,
    private readonly incident: Incident | null = null,
  ) {
    this.random = seeded(seed ^ 0x5ead);
  }
  run(minutes: number): this {
    for (let i = 0; i < minutes; i++) {
      this.minutes.push(new Map());
      for (const { program, perMinute } of this.world.fronts) {
        // an hour is not even: it swells and falls by a fifth
        const swell = 1 + 0.2 * Math.sin(((this.minutes.length + 40 * program) / 90) * Math.PI);
        for (let left = this.poisson(perMinute * swell); left > 0; left--) this.call(OUTSIDE, program);
      }
    }
    return this;
  }
  /** Far beyond what is usual of the link, as a delay is that people see. */
  private get delay(): number {
    return 0.3 + 3 * (this.incident?.usualSeconds ?? 0) * (0.8 + 0.4 * this.random());
  }
  private get flood(): number {
    return Math.ceil(Math.max(6, 150 / (this.incident?.perMinute ?? 1)));
  }
  private poisson(mean: number): number {
    const least = Math.exp(-mean);
    let count = -1;
    for (let at = 1; at > least; at *= this.random()) count++;
    return count;
  }
  private normal(): number {
    return Math.sqrt(-2 * Math.log(1 - this.random())) * Math.cos(2 * Math.PI * this.random());
  }
  private at(kind: IncidentKind, from: number, to: number): boolean {
    const { incident } = this;
    if (incident === null || incident.kind !== kind || this.minutes.length <= incident.begins) return false;
    const whole = kind === 'down' || kind === 'failing' || kind === 'slow';
    return incident.to === to && (whole || incident.from === from);
  }
  private call(from: number, to: number): { readonly failed: boolean; readonly seconds: number } {
    const { own: middle, fails, calls } = this.world.programs[to]!; // it is one of them
    const link = this.sidesOf(from, to);
    if (this.at('down', from, to) || this.at('closed way', from, to)) {
      count(link.caller, { failed: true, refused: true, seconds: NETWORK, own: 0 });
      return { failed: true, seconds: NETWORK };
    }
    if (this.at('lossy way', from, to) && this.random() < 0.4) {
      count(link.caller, { failed: true, refused: false, seconds: GIVES_UP, own: 0 });
      return { failed: true, seconds: GIVES_UP };
    }
    const own = middle * Math.exp(0.4 * this.normal()) + (this.at('slow', from, to) ? this.delay : 0);
    let seconds = own;
    let failed = this.random() < (this.at('failing', from, to) ? 0.35 : fails);
    for (const { to: next, share } of calls) {
      if (this.random() >= share || this.at('cut', to, next)) continue;
      const times = this.at('flood', to, next) ? this.flood : 1;
      for (let i = 0; i < times; i++) {
        const answer = this.call(to, next);
        if (i > 0) continue;
        seconds += answer.seconds;
        // what it can do without goes on
        failed ||= answer.failed && this.random() < 0.7;
      }
    }
    count(link.answerer, { failed, refused: false, seconds, own });
    const taken = seconds + NETWORK + (this.at('slow way', from, to) ? this.delay : 0);
    count(link.caller, { failed, refused: false, seconds: taken, own: 0 });
    return { failed, seconds: taken };
  }
  private sidesOf(from: number, to: number): Sides {
    const minute = this.minutes.at(-1)!; // there is one while it runs
    const key = `${from} ${to}`;
    const sides = minute.get(key) ?? { caller: nothing(), answerer: nothing() };
    minute.set(key, sides);
    return sides;
  }

  private get before() {
    return this.minutes.slice(0, this.incident?.begins);
  }
  /** Requests a minute over the last of them, before anything was the matter. */
  rateOf(from: number, to: number, what: 'requests' | 'failures' = 'requests'): number {
    const some = this.before;
    return some.reduce((sum, minute) => sum + (minute.get(`${from} ${to}`)?.caller[what] ?? 0), 0) / some.length;
  }
  secondsOf(from: number, to: number): number {
    return nearlyAll(this.before.flatMap((minute) => minute.get(`${from} ${to}`)?.caller.seconds ?? []));
  }
  /** As the map reads it, at the end of a minute. `usual`: what this hour is like on other days is known. */
  readAt(end: number, at: EpochMs, usual: boolean): ReadLinks {
    const times = minutesUpTo(at);
    const fives = fivesUpTo(at);
    const keys = [...new Set(this.minutes.slice(0, end).flatMap((minute) => [...minute.keys()]))];
    const read: Record<'requests' | 'failures' | 'refused' | 'p95' | 'own' | 'spent', ReadLine[]> = {
      requests: [],
      failures: [],
      refused: [],
      p95: [],
      own: [],
      spent: [],
    };
    const known: Record<keyof ReadUsual, ReadLine[]> = {
      requests: [],
      typical: [],
      failures: [],
      refused: [],
      p95: [],
      bytes: [],
    };
    const within = (key: string, side: keyof Sides, from: number, to: number) =>
      this.minutes.slice(Math.max(0, from), to).map((minute) => minute.get(key)?.[side] ?? nothing());
    for (const key of keys) {
      const [from = 0, to = 0] = key.split(' ').map(Number);
      for (const side of ['caller', 'answerer'] as const) {
        // whoever asks from outside tells nothing
        if (side === 'caller' && from === OUTSIDE) continue;
        const labels = this.labelsOf(from, to, side);
        for (const what of ['requests', 'failures', 'refused'] as const) {
          const counts = within(key, side, 0, end).map((own) => own[what]);
          const grown = (i: number) => counts.slice(0, Math.max(0, i)).reduce((sum, own) => sum + own, 0);
          read[what].push({
            labels,
            values: Float64Array.from(times, (_, i) => grown(end - (times.length - 1 - i))),
          });
        }
        read.p95.push({
          labels,
          values: Float64Array.from(fives, (_, i) => {
            const to = end - (fives.length - 1 - i) * 5;
            return nearlyAll(within(key, side, to - 5, to).flatMap(({ seconds }) => seconds));
          }),
        });
      }
      const last = within(key, 'answerer', end - 5, end);
      const answered = this.labelsOf(from, to, 'answerer');
      const spent = last.reduce((sum, { seconds }) => sum + seconds.reduce((all, one) => all + one, 0), 0);
      read.own.push({ labels: answered, values: Float64Array.of(last.reduce((sum, { own }) => sum + own, 0)) });
      read.spent.push({ labels: answered, values: Float64Array.of(spent) });
      if (usual && from !== OUTSIDE) {
        const caller = this.labelsOf(from, to, 'caller');
        const add = (what: keyof ReadUsual, value: number) =>
          known[what].push({ labels: caller, values: Float64Array.of(value) });
        add('requests', (1.3 * this.rateOf(from, to)) / 60);
        add('typical', this.rateOf(from, to) / 60);
        add('failures', (1.5 * this.rateOf(from, to, 'failures')) / 60);
        add('refused', 0);
        add('p95', 1.2 * this.secondsOf(from, to));
      }
    }
    return { at, ...read, seen: [], bytes: [], connections: [], uncertain: [], usual: known, day: null };
  }
  private labelsOf(from: number, to: number, seenBy: keyof Sides): Record<string, string> {
    const [a, b] = [endIn(this.world, from), endIn(this.world, to)];
    return {
      from_cluster: a.cluster,
      from_namespace: a.namespace,
      from_workload: a.workload,
      to_cluster: b.cluster,
      to_namespace: b.namespace,
      to_workload: b.workload,
      protocol: 'http',
      seen_by: seenBy,
    };
  }
}
export const endIn = ({ programs }: MadeWorld, of: number): LinkEnd =>
  of === OUTSIDE
    ? { cluster: '', namespace: '', workload: 'outside' }
    : { cluster: 'made', namespace: 'up', workload: `deployment:${programs[of]!.name}` }; // it is one of them
/** The end of minutes that are made up. */
export const endOfMinute = (minute: number): EpochMs => 1_790_000_040_000 + minute * MINUTE;

function count(
  own: Counted,
  {
    failed,
    refused,
    seconds,
    own: took,
  }: { readonly failed: boolean; readonly refused: boolean; readonly seconds: number; readonly own: number },
): void {
  own.requests++;
  if (failed) own.failures++;
  if (refused) own.refused++;
  own.seconds.push(seconds);
  own.own += took;
}
/** As it is read of buckets: within the one in which it lies nobody knows more. */
function nearlyAll(seconds: readonly number[]): number {
  if (seconds.length === 0) return Number.NaN;
  const sorted = [...seconds].sort((a, b) => a - b);
  const value = sorted[Math.ceil(0.95 * sorted.length) - 1]!; // there are some
  const at = LINK_BOUNDS.findIndex((bound) => value <= bound);
  const [low, high] = [LINK_BOUNDS[at - 1] ?? 0, LINK_BOUNDS[at] ?? value];
  const below = sorted.filter((one) => one <= low).length;
  const inside = sorted.filter((one) => one <= high).length - below;
  return low + ((high - low) * (0.95 * sorted.length - below)) / Math.max(1, inside);
}
