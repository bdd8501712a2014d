import { Injectable } from '@nestjs/common';
import type { EndpointAnswer, RawPage } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { stalenessOf } from '@zetopsis/core/samples';
import { demand } from '../../ground/guard/demand.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { type Refused, SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import type { EndpointStatus } from './endpointReader.ts';
import { KnownEndpoints, type OwnEndpoint } from './knownEndpoints.ts';
import type { EndpointPlan } from './plans.ts';

/** What can be seen of the endpoints, and by whom. */
@Injectable()
export class EndpointAnswersService {
  constructor(
    private readonly known: KnownEndpoints,
    private readonly connections: ConnectionsService,
    private readonly numbers: SeriesNumbers,
    private readonly clock: Clock,
  ) {}

  private mayList(reach: Reach, plan: EndpointPlan): boolean {
    if (plan.connectionId === null) return reach.mayEverywhere('read');
    const cluster = this.connections.nameOf(plan.connectionId);
    // the nodes of a cluster are shared; what else is of the cluster as a whole may speak of anybody
    if (plan.namespace === null) return plan.kind === 'node' ? reach.touches(cluster) : reach.whole(cluster);
    return reach.reads(cluster, plan.namespace);
  }
  /** What may be looked at closely: a node's page speaks of every pod on it, and is for those who may see the whole cluster. */
  private mayLookInto(reach: Reach, plan: EndpointPlan): boolean {
    if (plan.connectionId === null) return reach.mayEverywhere('read');
    return reach.may('read', this.connections.nameOf(plan.connectionId), plan.namespace);
  }

  list(reach: Reach): EndpointAnswer[] {
    return [...this.known.all()]
      .filter(({ plan }) => this.mayList(reach, plan))
      .map(({ plan, status }) => this.answer(plan, status))
      .sort(
        (a, b) =>
          inOrder(a.connection ?? '~', b.connection ?? '~') ||
          KINDS.indexOf(a.kind) - KINDS.indexOf(b.kind) ||
          inOrder(a.name, b.name),
      );
  }
  private answer(plan: EndpointPlan, status: EndpointStatus): EndpointAnswer {
    const newestAt = status.lastReadingAt;
    const overdue =
      status.state === 'read' && newestAt !== null && this.clock.now() - newestAt > stalenessOf(plan.intervalMs);
    return {
      id: plan.id,
      kind: plan.kind,
      connection: plan.connectionId === null ? null : this.connections.nameOf(plan.connectionId),
      name: plan.name,
      scout: plan.scout,
      group: plan.group,
      address: plan.url.href,
      intervalSeconds: plan.intervalMs / 1000,
      state: overdue ? 'late' : status.state,
      since: Math.round(status.since),
      lastReadingAt: newestAt,
      samples: status.last?.page.values.length ?? null,
      bytes: status.last?.page.bytes ?? null,
      durationMs: status.last === null ? null : Math.round(status.last.durationMs * 10) / 10,
      problems: status.last?.page.problemCount ?? 0,
      cut: cutInWords(this.numbers.refused(plan.id)),
      lastError: status.error,
      lastErrorAt: status.errorAt === null ? null : Math.round(status.errorAt),
      nextDueAt: status.nextDueAt,
    };
  }
  /** One that may be looked into, or a refusal in the same words as for one that is not there. */
  look(reach: Reach, id: number): OwnEndpoint & { answer: EndpointAnswer } {
    const own = this.known.get(id);
    if (!own || !this.mayList(reach, own.plan)) throw new Refusal('notFound', 'This endpoint is not read (any more).');
    if (!this.mayLookInto(reach, own.plan)) {
      const cluster = this.connections.nameOf(own.plan.connectionId ?? '');
      demand({ reach, level: 'read', cluster, namespace: own.plan.namespace });
    }
    return { plan: own.plan, status: own.status, answer: this.answer(own.plan, own.status) };
  }
  byName(kind: EndpointPlan['kind'], name: string): EndpointAnswer | null {
    for (const { plan, status } of this.known.all())
      if (plan.kind === kind && plan.name === name) return this.answer(plan, status);
    return null;
  }

  rawPage(reach: Reach, id: number): RawPage {
    const { status } = this.look(reach, id);
    if (!status.last || status.lastAt === null)
      throw new Refusal(
        'notFound',
        'No page has been read from this endpoint yet. The next reading is due within its interval.',
      );
    const { page, raw, contentType } = status.last;
    return {
      readAt: status.lastAt,
      contentType,
      bytes: page.bytes,
      text: raw.toString('utf8'),
      cut: page.bytes > raw.length,
      families: [...page.families.values()].map(({ name, type, unit, samples }) => ({ name, type, unit, samples })),
      problems: [...page.problems],
      problemCount: page.problemCount,
    };
  }
}

/** Made once: of thousands of names each comparison counts. */
const inOrder = new Intl.Collator('en').compare;
const KINDS: readonly EndpointPlan['kind'][] = ['node', 'found', 'given', 'pushed', 'own'];
const LIMITED = {
  perEndpoint: 'this endpoint has as many as one may',
  perTeam: 'a team whose they are has as many as one may',
  inAll: 'Zetopsis has as many as it may in all',
} as const;
/** What of an endpoint is not kept, and what to do. */
function cutInWords(refused: Refused | null): string | null {
  const [first] = Object.entries(refused ?? {}) as [keyof typeof LIMITED, number][]; // keys of a Refused
  if (!first) return null;
  return `${first[1]} of its series are not kept: ${LIMITED[first[0]]}. Drop some at the endpoint, or raise the limit (Admin, Retention and limits).`;
}
