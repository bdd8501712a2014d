import { EMPTY_CODES } from '@zetopsis/core/emptiness';
import { PURPOSES } from '@zetopsis/core/purposes';
import { z } from 'zod';
import { EpochMs } from './time.ts';
import { ComparedBoth, Figures, Finding, Severity, UsageLevel, UsageRow } from './usage.ts';

/** Values on a grid: the first belongs to `start`, the others follow `step` ms apart; null = nothing was read. */
export const Line = z.array(z.number().nullable());
/** Why nothing stands there; the words are core's. */
const Emptiness = z.object({ code: z.enum(EMPTY_CODES), of: z.string().nullable() });
const UsageLines = z.object({
  use: Line,
  request: Line,
  limit: Line,
  against: Line.nullable(),
  empty: Emptiness.nullable(),
});
/** Further lines on the same axis: network, file system, a volume's use. */
const FlowLines = z.object({
  title: z.string(),
  unit: z.enum(['bytes', 'bytes per s', 'cores', 'pods', 'share', 'count', 'per s', 'per min', 'seconds']),
  lines: z.array(z.object({ name: z.string(), values: Line, against: Line.nullable() })),
  limit: Line.nullable(),
  empty: Emptiness.nullable(),
  /** How it is read, or what it cannot tell. */
  note: z.string().optional(),
  /** The text of a measure that asks for the same. */
  measure: z.string().optional(),
  /** Texts of further measures of the same, each with a word for it. */
  more: z.array(z.object({ word: z.string(), text: z.string() })).optional(),
});
export type FlowLines = z.infer<typeof FlowLines>;
export const Mark = z.object({
  at: EpochMs,
  kind: z.enum([
    'rollout',
    'restart',
    'out of memory',
    'pod lost',
    'scaled',
    'node change',
    'config change',
    'run failed',
    'revision',
    'new link',
    'gone link',
    'raised',
    'cleared',
  ]),
  severity: Severity.nullable(),
  title: z.string(),
  path: z.array(z.string()),
});
export type Mark = z.infer<typeof Mark>;

const ContainerLine = z.object({
  name: z.string(),
  role: z.string(),
  /** What it is for, beside the main one, and what says so; null: that is not known, or it is the main one. */
  purpose: z.object({ purpose: z.enum(PURPOSES), signs: z.array(z.string()) }).nullable(),
  image: z.string(),
  ports: z.array(z.number()),
  state: z.string(),
  restarts: z.number().int(),
  lastEnd: z.string().nullable(),
});
const VolumeLine = z.object({
  path: z.array(z.string()),
  /** The claim's name, or the volume's where no claim has it. */
  name: z.string(),
  usedBy: z.string(),
  figures: Figures,
  /** Milliseconds until it is full, as it grows now; null when it does not grow. */
  fullIn: z.number().nullable(),
});
export type VolumeLine = z.infer<typeof VolumeLine>;
const QuotaLine = z.object({
  path: z.array(z.string()),
  name: z.string(),
  rows: z.array(z.object({ resource: z.string(), hard: z.number(), used: z.number().nullable() })),
});
export type QuotaLine = z.infer<typeof QuotaLine>;
const RunLine = z.object({
  name: z.string(),
  outcome: z.enum(['waiting', 'running', 'succeeded', 'failed', 'suspended']),
  startedAt: EpochMs.nullable(),
  endedAt: EpochMs.nullable(),
  /** How its last container ended, in words. */
  end: z.string().nullable(),
  retries: z.number().int(),
});
const RelatedLine = z.object({
  kind: z.string(),
  name: z.string(),
  path: z.array(z.string()),
  words: z.string(),
  severity: Severity.nullable(),
});
export type RelatedLine = z.infer<typeof RelatedLine>;

/** When something reaches its limit (design/usage.md, running out). */
export const RunningOutLine = z.object({
  path: z.array(z.string()),
  what: z.string(),
  unit: z.enum(['bytes', 'cores', 'count']),
  use: z.number().nullable(),
  limit: z.number(),
  limitIs: z.enum(['limit', 'quota', 'allocatable', 'size']),
  outcome: z.discriminatedUnion('is', [
    /** In 8 of 10 cases between the last two; `latest` null: beyond what is looked ahead. */
    z.object({ is: z.literal('date'), at: z.number(), earliest: z.number(), latest: z.number().nullable() }),
    z.object({ is: z.literal('now') }),
    /** Not within this time, as far as its history tells: at most 90 days. */
    z.object({ is: z.literal('later'), within: z.number() }),
    z.object({ is: z.literal('unknown') }),
  ]),
  team: z.string().nullable(),
});
export type RunningOutLine = z.infer<typeof RunningOutLine>;

/** Texts of measures that ask for what a sheet shows; null where it shows no such figure. */
const SheetMeasures = z.object({
  cpu: z.string().nullable(),
  memory: z.string().nullable(),
  cpuShare: z.string().nullable(),
  memoryShare: z.string().nullable(),
  throttled: z.string().nullable(),
  restarts: z.string().nullable(),
  ready: z.string().nullable(),
  memoryRunningOut: z.string().nullable(),
});
export type SheetMeasures = z.infer<typeof SheetMeasures>;

export const SheetAnswer = z.object({
  /** "object": something that uses nothing itself, such as a service or a quota; its kind says what. */
  level: z.enum([...UsageLevel.options, 'object']),
  name: z.string(),
  kind: z.string().nullable(),
  path: z.array(z.string()),
  owner: z.string().nullable(),
  createdAt: EpochMs.nullable(),
  endedAt: EpochMs.nullable(),
  /** `as`: what is to be read letter by letter. */
  facts: z.array(z.object({ name: z.string(), text: z.string(), as: z.literal('code').optional() })),
  findings: z.array(Finding),
  /** What rules have raised about it, or about a part of it, and is not clear at the window's end. */
  raised: z.array(
    z.object({
      severity: Severity,
      title: z.string(),
      reason: z.string(),
      since: EpochMs,
      nextStep: z.string(),
      /** Its place among the findings, where one of them tells the same. */
      toldBy: z.number().int().nullable(),
    }),
  ),
  usage: z.object({ cpu: Figures, memory: Figures }).nullable(),
  against: ComparedBoth.nullable(),
  throttled: z.number().nullable(),
  grid: z.object({ start: EpochMs, step: z.number(), count: z.number().int() }),
  cpu: UsageLines.nullable(),
  memory: UsageLines.nullable(),
  measures: SheetMeasures.nullable(),
  /** Requests, failures and latency, where its programs tell of them. */
  requests: z.array(FlowLines),
  flows: z.array(FlowLines),
  marks: z.array(Mark),
  restarts: z.number().int(),
  containers: z.array(ContainerLine),
  /** Of a cluster: its nodes against what they can give, tightest first by memory; of anything else none. */
  nodes: z.array(UsageRow),
  /** Tightest first. */
  volumes: z.array(VolumeLine),
  quotas: z.array(QuotaLine),
  /** Of a job or cron job, newest first; null of anything else. */
  runs: z.array(RunLine).nullable(),
  nextDueAt: EpochMs.nullable(),
  related: z.array(RelatedLine),
  /** Of it and of what is in it, soonest first; null where it is not told: of the past, and before it was looked at. */
  runningOut: z.array(RunningOutLine).nullable(),
  /** Other clusters that have one of the same name at the same place. */
  elsewhere: z.array(z.string()),
  /** Of a deployment whose pods are being replaced, or were in this window. */
  rollout: z
    .object({
      at: EpochMs,
      change: z.string(),
      desired: z.number().int(),
      updated: z.number().int(),
      ready: z.number().int(),
      /** Old pods that are still there. */
      old: z.number().int(),
      /** The fewest that are kept available meanwhile, as its strategy has it. */
      keeps: z.number().int().nullable(),
      goesOn: z.boolean(),
      expectedEnd: EpochMs.nullable(),
      sides: z.array(
        z.object({
          name: z.enum(['new', 'old']),
          images: z.string(),
          pods: z.number().int(),
          ready: z.number().int(),
          /** Of an average pod. */
          cpu: z.number().nullable(),
          memory: z.number().nullable(),
          restarts: z.number().int(),
          failing: z.string().nullable(),
        }),
      ),
    })
    .nullable(),
  /** What one would change, as text to be taken to where the object is defined. */
  changes: z.array(z.object({ title: z.string(), text: z.string() })),
  /** Containers whose last lines can be asked for. */
  logs: z.array(z.object({ pod: z.string(), container: z.string(), previous: z.boolean() })),
  tables: z.array(
    z.object({
      title: z.string(),
      columns: z.array(z.string()),
      rows: z.array(z.array(z.string())),
      /** Of names that are not ours: they can be mapped. */
      mappable: z.boolean().optional(),
    }),
  ),
  /** Related objects and volumes beyond the answer's limit. */
  left: z.number().int(),
  events: z.array(
    z.object({
      at: EpochMs,
      type: z.enum(['normal', 'warning']),
      reason: z.string(),
      message: z.string(),
      count: z.number().int(),
      about: z.string(),
    }),
  ),
  eventsMissing: z.string().nullable(),
});
export type SheetAnswer = z.infer<typeof SheetAnswer>;

export const LogQuery = z.object({
  pod: z.string().min(1).max(253),
  container: z.string().min(1).max(63),
  previous: z.enum(['yes', 'no']).default('no'),
});
export const LogAnswer = z.object({ at: EpochMs, lines: z.array(z.string()), previous: z.boolean() });
export type LogAnswer = z.infer<typeof LogAnswer>;
export const VersionsAnswer = z.object({
  /** Newest first. */
  versions: z.array(
    z.object({
      from: EpochMs,
      to: EpochMs.nullable(),
      words: z.string(),
      /** Against the version before; of the first that is kept, the whole. */
      lines: z.array(z.object({ is: z.enum(['same', 'added', 'removed']), text: z.string() })),
    }),
  ),
  more: z.boolean(),
});
export type VersionsAnswer = z.infer<typeof VersionsAnswer>;
