import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import type { PastAlert } from '@zetopsis/answers/rules';
import { type AlertAnswer, EVERYTHING, type ObjectPath, placeOf, readPath } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { stateShown } from '@zetopsis/core/rules';
import type { EpochMs } from '@zetopsis/core/units';
import { type EntityManager, Repository } from 'typeorm';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { OutboxService } from '../outbox/outbox.service.ts';
import { LeaseService } from '../store/lease.service.ts';
import { type AlertRow, AlertStore, type StateRow, type TakenAlert } from './alert.store.ts';

export type { AlertRow, ObjectState, StateRow } from './alert.store.ts';

import { RuleEntity } from './rule.entity.ts';

/** So many alerts of one rule are shown at most. */
export const MOST_OF_RULE = 200;
/** Looked through before what nobody may see is left out. */
const MOST = 5000;

/** Of a cluster as a whole, and of what stands in none, whoever operates all of that. */
const operates = (reach: Reach, { cluster, namespace }: ReturnType<typeof placeOf>): boolean =>
  cluster === null ? reach.mayEverywhere('operate') : reach.may('operate', cluster, namespace);
/** One that cannot be read concerns those who see everything. */
const storedPath = (parts: readonly string[]): ObjectPath => readPath(parts) ?? EVERYTHING;

/** Alerts as people see them: with their rule, their state and who was told. */
@Injectable()
export class AlertsService {
  constructor(
    @InjectRepository(RuleEntity) private readonly rules: Repository<RuleEntity>,
    private readonly configuration: ConfigurationService,
    private readonly alerts: AlertStore,
    private readonly outbox: OutboxService,
    private readonly lease: LeaseService,
  ) {}

  async open(reach: Reach): Promise<AlertAnswer[]> {
    return this.answers(
      reach,
      (await this.alerts.open()).filter(({ facts }) => reach.sees(placeOf(storedPath(facts.path)))),
    );
  }
  async within({
    reach,
    from,
    to,
    limit = 500,
  }: {
    readonly reach: Reach;
    readonly from: EpochMs;
    readonly to: EpochMs;
    readonly limit?: number;
  }): Promise<AlertAnswer[]> {
    const rows = await this.alerts.within(from, to, MOST);
    return this.answers(reach, rows.filter(({ facts }) => reach.sees(placeOf(storedPath(facts.path)))).slice(0, limit));
  }

  /** Of one rule, on trial as well. */
  async ofRule(reach: Reach, ruleId: number, from: EpochMs): Promise<AlertAnswer[]> {
    const rows = await this.alerts.ofRule(ruleId, from, MOST);
    const seen = rows.filter(({ facts }) => reach.sees(placeOf(storedPath(facts.path))));
    return this.answers(reach, seen.slice(0, MOST_OF_RULE));
  }
  /** Every rule's number, under which its states and alerts are kept. */
  async ruleNumbers(): Promise<{ readonly id: number; readonly key: string }[]> {
    return (await this.rules.find()).map(({ id, key }) => ({ id, key }));
  }
  /** By the number of the rule. */
  async lastRaised(): Promise<ReadonlyMap<number, EpochMs>> {
    return new Map((await this.alerts.lastRaised()).map(({ ruleId, at }) => [ruleId, Number(at)]));
  }

  /** By somebody who operates what it is about, with a note; null: given back. */
  async take(reach: Reach, id: number, taken: TakenAlert | null): Promise<void> {
    const parts = await this.alerts.pathOf(id);
    const place = parts && placeOf(storedPath(parts));
    if (place === null || !reach.sees(place)) throw new Refusal('notFound', 'There is no such alert (any more).');
    if (!operates(reach, place))
      throw new Refusal('notAllowed', 'You may not operate what this alert is about. An administrator can grant it.');
    if (!(await this.alerts.take(id, taken))) throw new Refusal('conflict', 'This alert is over already.');
  }

  /** What a hush kept quiet. */
  async ofHush(reach: Reach, key: string): Promise<AlertAnswer[]> {
    const rows = await this.alerts.ofHush(key, 200);
    return this.answers(
      reach,
      rows.filter(({ facts }) => reach.sees(placeOf(storedPath(facts.path)))),
    );
  }

  /** Of one rule, with what was told of each; whoever asks sees all of it. */
  async pastOf(ruleId: number, from: EpochMs): Promise<PastAlert[]> {
    const rows = (await this.alerts.ofRule(ruleId, from, MOST)).filter(({ trial }) => !trial);
    const told = await this.outbox.ofAlerts(rows.map(({ id }) => id));
    return rows.map(({ id, connectionId, subject, since, raisedAt, endedAt, taken }) => ({
      subject: `${connectionId} ${subject}`,
      since: Number(since),
      raisedAt: Number(raisedAt),
      endedAt: endedAt === null ? null : Number(endedAt),
      toldAt: (told.get(id) ?? []).map(({ createdAt }) => createdAt),
      taken: taken !== null,
    }));
  }

  // ---- for who judges: state and alert change in one transaction ----------------------------------------------------

  /** A refusal where another process judges. */
  transaction<T>(work: (manager: EntityManager) => Promise<T>): Promise<T> {
    return this.alerts.transaction(async (manager) => {
      await this.lease.demand(manager);
      return work(manager);
    });
  }
  allStates(): Promise<StateRow[]> {
    return this.alerts.allStates();
  }
  statesOf(ruleIds: readonly number[]): Promise<StateRow[]> {
    return this.alerts.statesOf(ruleIds);
  }
  /** Up to when each rule is judged, by its number. */
  judgedAll(judged: ReadonlyMap<number, EpochMs>): Promise<void> {
    return this.transaction((manager) => this.alerts.judgedAll(manager, judged));
  }
  putStates(...given: Parameters<AlertStore['putStates']>): Promise<void> {
    return this.alerts.putStates(...given);
  }
  async judged(manager: EntityManager, ruleId: number, until: EpochMs): Promise<void> {
    await this.alerts.judged(manager, ruleId, until);
  }
  raise(manager: EntityManager, row: Omit<AlertRow, 'id' | 'endedAt' | 'endedHow' | 'taken'>): Promise<number> {
    return this.alerts.raise(manager, row);
  }
  hushed(): Promise<AlertRow[]> {
    return this.alerts.hushed();
  }
  setHushed(of: Parameters<AlertStore['setHushed']>[0]): Promise<boolean> {
    return this.alerts.setHushed(of);
  }
  setSeverity(of: Parameters<AlertStore['setSeverity']>[0]): Promise<AlertRow | null> {
    return this.alerts.setSeverity(of);
  }
  /** Null when it had ended before. */
  end(of: Parameters<AlertStore['end']>[0]): Promise<AlertRow | null> {
    return this.alerts.end(of);
  }

  /** What a message speaks of; null when of no alert. */
  async pathOfDelivery(id: number): Promise<ObjectPath | null> {
    const alertId = await this.outbox.alertOf(id);
    const parts = alertId === null ? null : await this.alerts.pathOf(alertId);
    return parts === null ? null : storedPath(parts);
  }

  private async answers(reach: Reach, rows: readonly AlertRow[]): Promise<AlertAnswer[]> {
    const [rules, states, told] = await Promise.all([
      this.rules.find(),
      this.alerts.allStates(),
      this.outbox.ofAlerts(rows.map(({ id }) => id)),
    ]);
    const stateOf = new Map(states.map(({ alertId, state }) => [alertId, state] as const));
    const keyOf = new Map(rules.map(({ id, key }) => [id, key] as const));
    return rows.map((row) => {
      const own = stateOf.get(row.id);
      const state = own && stateShown(own);
      const raised = state?.kind === 'easing' ? state.raised : state;
      return {
        id: row.id,
        rule: this.configuration.get('rule', keyOf.get(row.ruleId) ?? '')?.name ?? 'a rule that is not there any more',
        ruleKey: keyOf.get(row.ruleId) ?? '',
        trial: row.trial,
        hushed: row.hushed,
        taken: row.taken,
        mayTake: row.endedAt === null && operates(reach, placeOf(storedPath(row.facts.path))),
        severity: row.severity,
        title: row.facts.title,
        path: [...row.facts.path],
        team: row.facts.team,
        since: row.since,
        raisedAt: row.raisedAt,
        endedAt: row.endedAt,
        endedHow: row.endedHow,
        unseenSince: raised?.kind === 'raised' ? raised.unseenSince : null,
        easingSince: state?.kind === 'easing' ? state.since : null,
        value: row.facts.value,
        limit: row.facts.limit,
        reason: row.facts.reason,
        evidence: row.facts.evidence,
        changed: row.facts.changed,
        nextStep: row.facts.nextStep,
        told: (told.get(row.id) ?? []).map(({ to, state: delivery, sentAt, error }) => ({
          to,
          state: delivery,
          at: sentAt,
          error,
        })),
      };
    });
  }
}
