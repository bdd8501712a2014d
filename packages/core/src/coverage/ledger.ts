import type { WorkloadName } from '../inventory/index.ts';
import type { EpochMs } from '../units/index.ts';

/** How something that should be read is read. */
export type Cover = 'read' | 'late' | 'unread' | 'never' | 'paused';

/** An endpoint as far as coverage needs it. */
export interface PageState {
  readonly id: number;
  readonly state: 'waiting' | 'read' | 'late' | 'failing' | 'paused' | 'retired';
  readonly since: EpochMs;
  readonly lastReadingAt: EpochMs | null;
  readonly error: string | null;
}
export interface RunningContainer {
  readonly namespace: string;
  readonly workload: WorkloadName;
  readonly pod: string;
  readonly container: string;
  readonly node: string | null;
  readonly since: EpochMs | null;
  /** Vitals that were read of it at any time, and that the newest page of its node has. */
  readonly ever: number;
  readonly now: number;
}
export interface CoverInput {
  readonly now: EpochMs;
  readonly intervalMs: number;
  readonly vitals: number;
  /** Null for a node whose page is not known. */
  readonly pageOf: (node: string) => PageState | null;
  readonly nodes: readonly { readonly name: string; readonly since: EpochMs }[];
  readonly containers: readonly RunningContainer[];
}
export interface CoverRow {
  /** A node itself, or a container that runs somewhere. */
  readonly of:
    | { readonly kind: 'node'; readonly node: string }
    | ({ readonly kind: 'container' } & Pick<RunningContainer, 'namespace' | 'workload' | 'pod' | 'container'>);
  readonly state: Cover;
  readonly since: EpochMs | null;
  readonly reason: string;
  readonly nextStep: string;
  readonly endpoint: number | null;
}
export interface CoverLedger {
  readonly rows: readonly CoverRow[];
  readonly byNamespace: ReadonlyMap<string, { containers: number; read: number }>;
}

/** How a page that is not read as it should be is to be named. */
export function coverOf(page: PageState): Cover {
  switch (page.state) {
    case 'read':
      return 'read';
    case 'late':
      return 'late';
    case 'paused':
      return 'paused';
    default:
      return page.lastReadingAt === null ? 'never' : 'unread';
  }
}

/**
 * Every node and running container of a cluster: read, or why not. What is unread because its node's page is stands in
 * the node's row, with how many they are: one cause, one entry.
 */
export function coverLedger(input: CoverInput): CoverLedger {
  const rows: CoverRow[] = [];
  const byNamespace = new Map<string, { containers: number; read: number }>();
  const behind = new Map<string, number>();
  for (const own of input.containers) {
    const count = byNamespace.get(own.namespace) ?? { containers: 0, read: 0 };
    byNamespace.set(own.namespace, count);
    count.containers++;
    const page = own.node === null ? null : input.pageOf(own.node);
    if (page === null || page.state !== 'read') {
      if (own.node !== null) behind.set(own.node, (behind.get(own.node) ?? 0) + 1);
      continue;
    }
    const fresh = own.since !== null && input.now - own.since < 3 * input.intervalMs;
    if (own.now === input.vitals || fresh) {
      count.read++;
      continue;
    }
    rows.push(containerRow(own, input, page));
  }
  for (const node of input.nodes) {
    const page = input.pageOf(node.name);
    const also = behind.get(node.name) ?? 0;
    const hidden =
      also === 0 ? '' : ` ${also === 1 ? 'One container' : `${also} containers`} on it cannot be seen either.`;
    if (page === null) {
      rows.push({
        of: { kind: 'node', node: node.name },
        state: 'never',
        since: node.since,
        reason: `It does not say at which address and port its page is.${hidden}`,
        nextStep: 'Look at the node: an address or the port of its agent is missing in its status.',
        endpoint: null,
      });
      continue;
    }
    if (page.state === 'read' || page.state === 'waiting') continue;
    rows.push({
      of: { kind: 'node', node: node.name },
      state: coverOf(page),
      since: page.lastReadingAt ?? page.since,
      reason: `${page.error ?? 'Its reading is overdue.'}${hidden}`,
      nextStep: 'Look at its page and mend what the reason names; it is tried again at every interval.',
      endpoint: page.id,
    });
  }
  return { rows, byNamespace };
}

function containerRow(own: RunningContainer, input: CoverInput, page: PageState): CoverRow {
  const { namespace, workload, pod, container } = own;
  const gone = own.ever > own.now;
  return {
    of: { kind: 'container', namespace, workload, pod, container },
    state: gone ? 'unread' : 'never',
    since: own.since,
    reason:
      own.now > 0
        ? `The page of node ${own.node} has ${own.now} of the ${input.vitals} vitals of it.`
        : gone
          ? `The page of node ${own.node} has it no more, though it runs.`
          : `The page of node ${own.node} has no line of it, though it runs.`,
    nextStep:
      'Look at the node’s page for lines under other names; the agent on the node may have lost sight of the container.',
    endpoint: page.id,
  };
}

// ---- what changed -----------------------------------------------------------------------------------------------

export interface PageFigures {
  readonly series: number | null;
  readonly bytes: number | null;
  readonly durationMs: number | null;
}
const BY_FAR = 2;
const FEWEST = 20;
const SHORTEST = 200;

/** What of a page is far from what it was, in words. */
export function pageChanges(before: PageFigures, now: PageFigures): string[] {
  const changes: string[] = [];
  if (before.series !== null && now.series !== null && Math.max(before.series, now.series) >= FEWEST) {
    if (now.series >= before.series * BY_FAR) changes.push(`its series grew from ${before.series} to ${now.series}`);
    else if (now.series * BY_FAR <= before.series)
      changes.push(`its series fell from ${before.series} to ${now.series}`);
  }
  if (before.bytes !== null && now.bytes !== null && now.bytes >= before.bytes * BY_FAR)
    changes.push(`its page grew to ${(now.bytes / before.bytes).toFixed(1)} times its size`);
  if (
    before.durationMs !== null &&
    now.durationMs !== null &&
    now.durationMs >= SHORTEST &&
    now.durationMs >= before.durationMs * BY_FAR
  )
    changes.push(`reading it takes ${(now.durationMs / before.durationMs).toFixed(1)} times as long`);
  return changes;
}
