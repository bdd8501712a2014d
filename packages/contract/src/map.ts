import { SEVERITIES } from '@zetopsis/core/findings';
import { LINK_STATES, SIDES } from '@zetopsis/core/links';
import { z } from 'zod';
import { EpochMs } from './time.ts';

const Rate = z.number().nullable();
/** What changed most of a link against another window. */
export const LINK_CHANGES = ['new', 'gone', 'fails more', 'slower', 'more', 'less', 'fails less', 'quicker'] as const;
export type LinkChange = (typeof LINK_CHANGES)[number];
export const MapBox = z.object({
  /** What links name it by. */
  key: z.string(),
  /** workload: one of the inventory. service, host: by its name only. outside: whoever is not known. notYours: that somebody may not see. */
  kind: z.enum(['workload', 'service', 'host', 'outside', 'notYours']),
  cluster: z.string(),
  namespace: z.string(),
  /** As people read it. */
  name: z.string(),
  /** What keeps it; empty where it is no workload. */
  keeps: z.string(),
  /** Who owns it; null: nobody, or that is not known. */
  team: z.string().nullable(),
  /** Where its sheet is; null where it has none. */
  path: z.array(z.string()).nullable(),
  /** What is found wrong with it first; null: nothing, or that is not known. */
  severity: z.enum(SEVERITIES).nullable(),
  finding: z.string().nullable(),
  /** The same of what is wrong with it besides its links. */
  besides: z.string().nullable(),
  /** How near it is to its limits over the window; null: it has none, or that is not known. */
  cpu: Rate,
  memory: Rate,
  /** Pods of the window; null: it has none, or that is not known. */
  holds: z.number().int().nullable(),
});
export type MapBox = z.infer<typeof MapBox>;
export const MapLink = z.object({
  key: z.string(),
  from: z.string(),
  to: z.string(),
  protocols: z.array(z.string()),
  state: z.enum(LINK_STATES).nullable(),
  /** Nothing at all is told by who tells of it since then: whether it carries anything is not known. Null: something is. */
  blindSince: EpochMs.nullable(),
  /** Whether rates of the state are of requests or of bytes, where only those are known. */
  by: z.enum(['requests', 'bytes']),
  /** Per second, both ways, and connections that are open, as machines count them; null: nobody does. */
  bytes: Rate,
  connections: Rate,
  /** Of those bytes, the share by an address that came to another workload meanwhile: it counts for whoever had it when it was read. */
  uncertainShare: Rate,
  /** Of what the state is about: now, and what is usual; per second, a share, or seconds. */
  now: z.number(),
  usual: Rate,
  against: z.enum(['this hour', 'the time before']),
  since: EpochMs.nullable(),
  /** Per second, over the last five minutes: what the caller sent, what the answerer received. Null: that side tells nothing. */
  sent: Rate,
  received: Rate,
  failureShare: Rate,
  refusedShare: Rate,
  /** s: the 95th percentile by the caller's clock and by the answerer's. */
  callerP95: Rate,
  answererP95: Rate,
  /** Of the answerer's time, what was its own. */
  ownShare: Rate,
  /** Of its requests, the share of which a span came; the rest is scaled up. Null: nothing was asked, or that is not known. */
  seenShare: Rate,
  /** Nothing within the time that was looked at before. */
  isNew: z.boolean(),
  /** Requests a minute, else bytes, of the last hour; null where nothing was read. */
  course: z.array(z.number().nullable()),
  /** In the window compared with; null: it was not there, or nothing is compared. */
  was: z.object({ rate: z.number(), failureShare: Rate, p95: Rate }).nullable(),
  /** Against that; null: nothing worth a word, or nothing is compared. */
  change: z.enum(LINK_CHANGES).nullable(),
});
export type MapLink = z.infer<typeof MapLink>;
export const MapTrouble = z.object({
  link: z.string(),
  side: z.enum(SIDES),
  evidence: z.array(z.string()),
  /** The link at which it ends; null: this one. */
  root: z.string().nullable(),
  /** Links in trouble by the same cause. */
  inside: z.array(z.string()),
  /** Of what people started, the share that went over it, as traces tell; null: they do not, or that may not be seen. */
  people: z.number().nullable(),
});
export type MapTrouble = z.infer<typeof MapTrouble>;
/** Which link is asked about: keys of the boxes at its ends. */
const BoxKey = z.string().min(1).max(800);
export const LinkQuery = z.object({ caller: BoxKey, answerer: BoxKey });
export type LinkQuery = z.infer<typeof LinkQuery>;
const TracedRequest = z.object({
  traceId: z.string(),
  /** With fractions. */
  at: z.number(),
  operation: z.string(),
  seconds: z.number(),
  failed: z.boolean(),
});
/** What goes over one link, as traces that are kept tell. */
export const LinkAnswer = z.object({
  /** All traces from then on were looked through; what is older was not. */
  from: EpochMs,
  to: EpochMs,
  /** Requests over it, scaled up from what is kept; 0: no trace tells of it. */
  requests: z.number(),
  /** Of what people started, the share that went over it; null: nothing that people started is known, or not all of it may be seen. */
  people: z.number().nullable(),
  /** The most frequent first. */
  operations: z.array(
    z.object({ operation: z.string(), requests: z.number(), failedShare: z.number(), nearlyAll: z.number() }),
  ),
  /** From pod to pod, the most frequent first. Empty: that is not told, or no pod. */
  ways: z.array(
    z.object({
      from: z.string(),
      to: z.string(),
      requests: z.number(),
      failedShare: z.number(),
      nearlyAll: z.number(),
    }),
  ),
  slowest: z.array(TracedRequest),
  /** The newest first. */
  failed: z.array(TracedRequest),
});
export type LinkAnswer = z.infer<typeof LinkAnswer>;
/** Who talks to whom at a moment. */
export const MapAnswer = z.object({
  at: EpochMs,
  /** The moment that it is compared with; null: none. */
  comparedAt: EpochMs.nullable(),
  boxes: z.array(MapBox),
  links: z.array(MapLink),
  trouble: z.array(MapTrouble),
  /** Links beyond what is told at once. */
  left: z.number().int(),
  /** Why there is none; null where there is one. */
  nothing: z.string().nullable(),
});
export type MapAnswer = z.infer<typeof MapAnswer>;
