import type { UsageColumn, UsageRow } from '@zetopsis/contract';
import { type Finding, worstSeverity } from '@zetopsis/core/findings';
import type { DurationMs, EpochMs, Resource } from '@zetopsis/core/units';
import {
  type Compared,
  type ComparedBoth,
  emptyNode,
  type Grid,
  type ResourceUsage,
  type UsageNode,
} from '@zetopsis/core/usage';
import type { Restarted } from '../usage/index.ts';

const MOST_ROWS = 5000;

/** What an object used in the window compared with. */
export interface Then extends ComparedBoth {
  readonly other?: Compared | null | undefined;
}
export interface RowExtra {
  readonly key?: string;
  readonly kind?: string | null;
  readonly findings?: readonly Finding[];
  readonly age?: DurationMs | null;
  readonly goneAt?: EpochMs | null;
  readonly owner?: string | null;
  readonly labels?: Readonly<Record<string, string>>;
  readonly restarts?: Restarted;
  readonly ready?: number | null;
  readonly desired?: number | null;
  /** The resource beside CPU and memory that is looked at. */
  readonly other?: ResourceUsage | null;
  /** Undefined: nothing is compared. Null: the other window does not have it. */
  readonly against?: Then | null | undefined;
}

export function rowOf(node: UsageNode, extra: RowExtra = {}): UsageRow {
  const findings = extra.findings ?? [];
  return {
    key: extra.key ?? node.key,
    name: node.name,
    kind: extra.kind ?? null,
    severity: worstSeverity(findings),
    finding: findings[0]?.reason ?? null,
    present: node.present,
    goneAt: extra.goneAt ?? null,
    pods: node.pods,
    ready: extra.ready ?? null,
    desired: extra.desired ?? null,
    usage: node.usage,
    other: extra.other ?? null,
    throttled: node.throttled,
    restarts: extra.restarts?.restarts ?? 0,
    memoryEnds: extra.restarts?.memoryEnds ?? 0,
    age: extra.age ?? null,
    owner: extra.owner ?? null,
    labels: { ...extra.labels },
    against: extra.against ?? null,
    pairing: extra.against === undefined ? null : extra.against === null ? 'new' : 'both',
  };
}

/** Kinds of rows that stand for no object. */
export const NOBODYS: ReadonlySet<string> = new Set(['others', 'itself', 'unused', 'free']);

export const column = (level: UsageColumn['level'], rows: UsageRow[], summary: string): UsageColumn => ({
  level,
  rows: rows.slice(0, MOST_ROWS),
  left: Math.max(0, rows.length - MOST_ROWS),
  summary,
});

/** Only how much there is of what nobody uses. */
const spareFigures = (value: number | null, { limit, limitIs }: ResourceUsage): ResourceUsage => ({
  use: value,
  mean: null,
  peak: null,
  request: null,
  limit,
  limitIs,
  unlimited: null,
  tightness: null,
  heading: null,
});

/** What a machine uses beside its pods, where that is known. */
export interface Itself {
  readonly name: string;
  readonly use: Readonly<Record<Resource, number | null>>;
  /** Whether what it is beside counts it already. */
  readonly within: boolean;
}
/**
 * What machines use themselves, what is asked for and not used, and what is free, of something with a size: rows behind
 * those who use it.
 */
export function spareRows(
  whole: UsageNode,
  other: ResourceUsage | null,
  grid: Grid,
  itself: Itself | null,
): UsageRow[] {
  type Pick = (use: number, request: number, limit: number) => number;
  const figures = (own: ResourceUsage, pick: Pick, beside = 0): ResourceUsage => {
    const { use, request, limit } = own;
    const known = use !== null && limit !== null;
    return spareFigures(known ? Math.max(0, pick(use + beside, request ?? 0, limit)) : null, own);
  };
  const beside = (resource: Resource) => (itself === null || itself.within ? 0 : (itself.use[resource] ?? 0));
  const row = (kind: 'itself' | 'unused' | 'free', name: string): UsageRow =>
    rowOf(emptyNode({ level: whole.level, identity: { name, key: `~${kind}`, uid: null }, grid, present: true }), {
      kind,
    });
  const spare = (kind: 'unused' | 'free', name: string, pick: Pick): UsageRow => ({
    ...row(kind, name),
    other: other && figures(other, pick),
    usage: {
      cpu: figures(whole.usage.cpu, pick, kind === 'free' ? beside('cpu') : 0),
      memory: figures(whole.usage.memory, pick, kind === 'free' ? beside('memory') : 0),
    } satisfies Record<Resource, ResourceUsage>,
  });
  return [
    ...(itself === null
      ? []
      : [
          {
            ...row('itself', itself.name),
            usage: {
              cpu: spareFigures(itself.use.cpu, whole.usage.cpu),
              memory: spareFigures(itself.use.memory, whole.usage.memory),
            },
          },
        ]),
    spare('unused', 'asked for, not used', (use, request) => request - use),
    spare('free', 'free', (use, request, limit) => limit - Math.max(use, request)),
  ];
}
