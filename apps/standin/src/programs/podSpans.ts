import { SPAN } from '../wire-names.ts';
import type { CallTrouble } from '../world/callTroubles.ts';
import { dice, hashOf } from '../world/chance.ts';
import type { ApiObject } from '../world/objects.ts';
import type { World } from '../world/world.ts';
import { isStrained } from './podLines.ts';

/** A step as its program told it. Times in ms. */
export interface ToldSpan {
  readonly pod: ApiObject;
  readonly traceId: string;
  readonly spanId: string;
  readonly parentId: string;
  readonly name: string;
  /** By the protocol: 1 internal, 2 server, 3 client, 4 producer, 5 consumer. */
  readonly kind: 1 | 2 | 3 | 4 | 5;
  readonly at: number;
  readonly took: number;
  readonly failed: string | null;
  readonly attributes: Readonly<Record<string, string>>;
}
const EVERY = 2000;
/** A program is cold for so long after it came to be. */
const COLD = 20_000;

/** What one program does when it is asked: how long it works itself, in ms, and whom it asks, one after the other. */
interface Step {
  readonly app: string;
  readonly name: string;
  readonly works: number;
  readonly asks?: readonly Step[];
  /** Hands it on over a queue, and does not wait. */
  readonly tells?: Step;
  /** Asked once more where it failed. */
  readonly again?: boolean;
}
const JOURNEYS: readonly (Step & { readonly often: number })[] = [
  {
    app: 'ingress',
    name: 'GET /sailings',
    works: 2,
    often: 5,
    asks: [
      {
        app: 'booking-front',
        name: 'GET /sailings',
        works: 9,
        asks: [
          {
            app: 'seat-ledger',
            name: 'free seats',
            works: 12,
            again: true,
            asks: [{ app: 'fare-tables', name: 'fares of a day', works: 6 }],
          },
        ],
      },
    ],
  },
  {
    app: 'ingress',
    name: 'POST /bookings',
    works: 3,
    often: 3,
    asks: [
      {
        app: 'booking-front',
        name: 'POST /bookings',
        works: 14,
        asks: [
          { app: 'seat-ledger', name: 'hold a seat', works: 15, again: true },
          {
            app: 'payment-relay',
            name: 'charge',
            works: 70,
            tells: { app: 'receipt-mailer', name: 'receipts', works: 40 },
          },
        ],
      },
    ],
  },
  {
    app: 'manifest-intake',
    name: 'POST /manifests',
    works: 18,
    often: 2,
    asks: [
      {
        app: 'declaration-checker',
        name: 'check a declaration',
        works: 45,
        asks: [{ app: 'document-store', name: 'store a page', works: 30 }],
      },
    ],
  },
];
/** Who else asks whom, each so often, ms; several of them are where the links of the story are in trouble. */
const FLOWS: readonly (Step & { readonly every: number })[] = [
  {
    app: 'vessel-tracker',
    name: 'position',
    works: 3,
    every: 4000,
    asks: [{ app: 'queue', name: 'put a position', works: 2 }],
  },
  {
    app: 'gauge-reader',
    name: 'gauge read',
    works: 4,
    every: 4000,
    asks: [{ app: 'tide-model', name: 'take a gauge', works: 8 }],
  },
  {
    app: 'radio-notes',
    name: 'note',
    works: 6,
    every: 5000,
    asks: [{ app: 'pilot-roster', name: 'who is on watch', works: 9 }],
  },
  {
    app: 'pilot-roster',
    name: 'roster kept',
    works: 5,
    every: 5000,
    asks: [{ app: 'queue', name: 'put a roster', works: 3 }],
  },
  {
    app: 'document-store',
    name: 'pages kept',
    works: 5,
    every: 5000,
    asks: [{ app: 'archive', name: 'keep a page', works: 20 }],
  },
  { app: 'registry', name: 'sweep', works: 5, every: 8000, asks: [{ app: 'archive', name: 'list pages', works: 12 }] },
  {
    app: 'ingress',
    name: 'GET /quays',
    works: 2,
    every: 5000,
    asks: [
      {
        app: 'quay-board',
        name: 'GET /quays',
        works: 8,
        asks: [
          {
            app: 'berth-planner',
            name: 'plan of today',
            works: 10,
            asks: [
              {
                app: 'slot-allocator',
                name: 'slots of a quay',
                works: 12,
                asks: [{ app: 'ledger-base', name: 'select slots', works: 6 }],
              },
            ],
          },
        ],
      },
    ],
  },
];
const FLOOD = 8;
const DELAY = 380;
const FAILS = 0.35;
const REFUSES = 0.7;
const DECK = JOURNEYS.flatMap((journey) => Array.from({ length: journey.often }, () => journey));

/** What all programs told of the requests that began from one moment up to another; the same each time it is asked. */
export function spansBetween(world: World, from: number, to: number): ToldSpan[] {
  const pods = new Map<string, ApiObject[]>();
  for (const pod of world.store.list('pods')) {
    const app = pod.metadata.labels?.['app'];
    if (app !== undefined && world.readings.containersOf(pod).length > 0)
      pods.set(app, [...(pods.get(app) ?? []), pod]);
  }
  const spans: ToldSpan[] = [];
  for (let slot = Math.ceil(from / EVERY); slot * EVERY < to; slot++) {
    const roll = dice(`request ${world.options.seed} ${slot}`);
    const journey = DECK[Math.floor(roll() * DECK.length)]!; // it has some
    new Journey(world, pods, `${slot}`, roll, spans).go(journey, slot * EVERY + Math.floor(roll() * EVERY));
  }
  for (const flow of FLOWS)
    for (let slot = Math.ceil(from / flow.every); slot * flow.every < to; slot++) {
      const at = slot * flow.every;
      const floods = (flow.asks ?? []).some(({ app }) => world.calls.at(flow.app, app, at) === 'flood');
      for (let more = 0; more < (floods ? FLOOD : 1); more++) {
        const name = `${flow.app} ${flow.name} ${slot} ${more}`;
        const roll = dice(`request ${world.options.seed} ${name}`);
        new Journey(world, pods, name, roll, spans).go(flow, at + Math.floor(roll() * flow.every));
      }
    }
  return spans;
}

class Journey {
  private readonly traceId: string;
  private steps = 0;
  constructor(
    private readonly world: World,
    private readonly pods: ReadonlyMap<string, readonly ApiObject[]>,
    slot: string,
    private readonly roll: () => number,
    private readonly spans: ToldSpan[],
  ) {
    this.traceId = [0, 1, 2, 3]
      .map((part) => hashOf(`trace ${world.options.seed} ${slot} ${part}`).toString(16).padStart(8, '0'))
      .join('');
  }
  private nextId(): string {
    const part = (n: number) => hashOf(`${this.traceId} ${this.steps} ${n}`).toString(16).padStart(8, '0');
    this.steps++;
    return `${part(0)}${part(1)}`;
  }
  private tell(span: Omit<ToldSpan, 'traceId'>): void {
    this.spans.push({ ...span, traceId: this.traceId });
  }

  /** Answers when it was done, and what went wrong; null where nobody is there to answer. */
  go(
    step: Step,
    at: number,
    parentId = '',
    kind: 2 | 5 = 2,
    trouble: CallTrouble | null = null,
  ): { end: number; failed: string | null } | null {
    const own = this.pods.get(step.app) ?? [];
    const pod = own[Math.floor(this.roll() * own.length)];
    const container = pod && this.world.readings.containersOf(pod)[0];
    if (!pod || !container || at < container.runsSince) return null;
    const strained = isStrained(this.world, pod, at);
    const spanId = this.nextId();
    const cold = at - container.runsSince < COLD;
    let now = at + step.works * (0.4 + this.roll()) * (strained ? 9 : 1) * (cold ? 6 : 1);
    if (trouble === 'delay') now += DELAY * (0.6 + this.roll());
    let failed =
      this.roll() < (trouble === 'fail' ? FAILS : strained ? 0.05 : 0.004) ? 'gives up: no answer in time' : null;
    for (const next of step.asks ?? []) {
      const tries = next.again ? 2 : 1;
      const trouble = this.world.calls.at(step.app, next.app, now);
      if (trouble === 'cut') continue;
      for (let attempt = 1; attempt <= tries; attempt++) {
        const callId = this.nextId();
        const isRefused = trouble === 'refuse' && this.roll() < REFUSES;
        const answer = isRefused ? null : this.go(next, now + 0.3, callId, 2, trouble);
        const problem = isRefused ? 'connection refused' : answer === null ? 'nobody answers' : answer.failed;
        const end = (answer?.end ?? now + 5) + 0.3;
        this.tell({
          pod,
          spanId: callId,
          parentId: spanId,
          name: `call ${next.name}`,
          kind: 3,
          at: now,
          took: end - now,
          failed: problem,
          attributes: {
            [SPAN.peer]: next.app,
            ...(answer === null && { [SPAN.error]: problem ?? '' }),
            ...(attempt > 1 && { [SPAN.resent]: String(attempt - 1) }),
          },
        });
        now = end;
        failed = problem === null ? failed : attempt === tries ? problem : failed;
        if (problem === null) break;
      }
    }
    if (step.tells) {
      const sendId = this.nextId();
      this.tell({
        pod,
        spanId: sendId,
        parentId: spanId,
        name: `send ${step.tells.name}`,
        kind: 4,
        at: now,
        took: 1.5,
        failed: null,
        attributes: { [SPAN.queue]: step.tells.name },
      });
      this.go({ ...step.tells, name: `process ${step.tells.name}` }, now + 400 + this.roll() * 2500, sendId, 5);
      now += 1.5;
    }
    this.tell({
      pod,
      spanId,
      parentId,
      name: step.name,
      kind,
      at,
      took: now - at,
      failed,
      attributes: { ...(cold && { [SPAN.cold]: 'true' }) },
    });
    return { end: now, failed };
  }
}
