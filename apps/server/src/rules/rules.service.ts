import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import {
  type RuleAnswer,
  type RuleChange,
  type RuleDocument,
  RuleKind,
  writeQuery,
  writeScope,
} from '@zetopsis/contract';
import {
  CLEAR,
  composeMessage,
  onRuleEdited,
  type RuleEffect,
  type RuleState,
  type RuleTimes,
  stepRule,
  type Verdict,
} from '@zetopsis/core/rules';
import type { Samples } from '@zetopsis/core/samples';
import { type EpochMs, HOUR, MINUTE, type SeriesId } from '@zetopsis/core/units';
import { type EntityManager, Repository } from 'typeorm';
import { ConfigurationService } from '../configuration/configuration.service.ts';
import type { DocumentProblem, Documents } from '../configuration/documents.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { DeliveryService } from '../delivery/delivery.service.ts';
import { InventoryService } from '../inventory/inventory.service.ts';
import { LiveService } from '../live/live.service.ts';
import { OwnersService } from '../owners/owners.service.ts';
import { inPieces } from '../platform/inPieces.ts';
import { ServerLog } from '../platform/logger.ts';
import { Refusal } from '../platform/refusals.ts';
import { Clock, Settings } from '../platform/settings.ts';
import { timeoutFor } from '../scraping/endpointReader.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import { SamplesService } from '../store/samples.service.ts';
import { VitalsService } from '../vitals/vitals.service.ts';
import { type AlertFacts, type AlertRow, AlertStore, type StateRow } from './alert.store.ts';
import { RuleEntity } from './rule.entity.ts';
import { memorySubjects, readySubjects, type Subject } from './subjects.ts';

const JUDGE_EVERY = 1000;
/** Missed times are judged in order after an outage, this far back. */
const MEMORY = 'container.memory.working_set';
const CATCH_UP = 2 * HOUR;
const EMPTY: Samples = { times: [], values: [] };

type Rule = RuleEntity & RuleDocument;

interface Judgement {
  readonly connectionId: string;
  readonly subject: Subject;
  state: RuleState;
  effects: { readonly effect: RuleEffect; readonly judgedAt: EpochMs }[];
}

/** Judges the rules, keeps their alerts, and puts what must be told into the outbox in the same transaction. */
@Injectable()
export class RulesService implements OnApplicationBootstrap, OnApplicationShutdown {
  private timer: NodeJS.Timeout | null = null;
  private running: Promise<void> = Promise.resolve();
  private stopped = false;
  private watching = new Map<number, number>();
  /** Objects that a rule looks at in a cluster, when they were looked at last. */
  private readonly counted = new Map<string, number>();

  constructor(
    @InjectRepository(RuleEntity) private readonly rules: Repository<RuleEntity>,
    private readonly alerts: AlertStore,
    private readonly configuration: ConfigurationService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly samples: SamplesService,
    private readonly vitals: VitalsService,
    private readonly endpoints: EndpointsService,
    private readonly owners: OwnersService,
    private readonly delivery: DeliveryService,
    private readonly settings: Settings,
    private readonly clock: Clock,
    private readonly live: LiveService,
    private readonly log: ServerLog,
  ) {}

  onApplicationBootstrap(): void {
    this.configuration.addCheck(checkRules);
    this.configuration.onApplied('rule', ({ key, before }) => this.edited(key, before));
    this.schedule();
  }
  async onApplicationShutdown(): Promise<void> {
    this.stopped = true;
    if (this.timer) clearTimeout(this.timer);
    await this.running;
  }
  private schedule(): void {
    if (this.stopped) return;
    this.timer = setTimeout(() => {
      this.running = this.exclusive(() => this.judgeAll());
      void this.running.then(() => this.schedule());
    }, JUDGE_EVERY);
  }

  /** Judging and editing never overlap. */
  private turn: Promise<unknown> = Promise.resolve();
  private exclusive(work: () => Promise<void>): Promise<void> {
    const next = this.turn.then(work);
    this.turn = next.catch((error: unknown) => this.log.failure('rulesNotJudged', error));
    return next.catch(() => undefined);
  }

  private async judgeAll(): Promise<void> {
    for (const rule of await this.known()) if (rule.enabled && !this.stopped) await this.judge(rule);
  }

  /** Every rule with what is configured for it now. */
  private async known(): Promise<Rule[]> {
    const entities = await this.rules.find({ order: { id: 'ASC' } });
    return entities.flatMap((entity) => {
      const document = this.configuration.get('rule', entity.kind);
      return document === null ? [] : [{ ...document, ...entity }];
    });
  }

  private async judge(rule: Rule): Promise<void> {
    const states = new Map(
      (await this.alerts.states(rule.id)).map((row) => [`${row.connectionId} ${row.subject}`, row]),
    );
    const times: RuleTimes = { holds: rule.holdsSeconds * 1000, eases: rule.easesSeconds * 1000 };
    const judgements: Judgement[] = [];
    let judgedUntil = rule.judgedMs ?? 0;
    let watching = 0;
    for (const connectionId of this.connections.ids()) {
      const moments = this.momentsDue(rule, connectionId);
      const kept = [...states.values()].filter((row) => row.connectionId === connectionId);
      const counted = `${rule.id} ${connectionId}`;
      // nothing is due, and nothing could be gone: what is looked at is the same as before
      if (moments.length === 0 && kept.length === 0 && this.counted.has(counted)) {
        watching += this.counted.get(counted)!;
        continue;
      }
      const present = new Set<string>();
      await inPieces(await this.subjects(rule, connectionId, moments.length > 0), (subject) => {
        present.add(subject.key);
        if (moments.length === 0) return;
        const known = states.get(`${connectionId} ${subject.key}`);
        const judgement: Judgement = { connectionId, subject, state: known?.state ?? CLEAR, effects: [] };
        for (const at of moments) this.step(judgement, subject.verdict(at), at, times);
        if (judgement.state !== (known?.state ?? CLEAR) || judgement.effects.length > 0) judgements.push(judgement);
      });
      this.counted.set(counted, present.size);
      watching += present.size;
      // an object is gone only when the cluster itself says so
      if (!this.connections.isBlind(connectionId)) {
        for (const row of kept) {
          if (present.has(row.subject)) continue;
          const judgement: Judgement = { connectionId, subject: goneSubject(row), state: row.state, effects: [] };
          this.step(judgement, { is: 'gone' }, this.clock.now(), times);
          judgements.push({ ...judgement, state: CLEAR });
        }
      }
      if (moments.length > 0) judgedUntil = Math.max(judgedUntil, moments.at(-1)!);
    }
    this.watching.set(rule.id, watching);
    if (judgements.length === 0 && judgedUntil === rule.judgedMs) return;
    await this.alerts.transaction(async (manager) => {
      for (const judgement of judgements) {
        const alertId = states.get(`${judgement.connectionId} ${judgement.subject.key}`)?.alertId ?? null;
        await this.write(manager, rule, judgement, alertId);
      }
      await this.alerts.judged(manager, rule.id, judgedUntil);
    });
    if (judgements.some(({ effects }) => effects.length > 0)) this.live.touch('alerts');
  }

  private step(judgement: Judgement, verdict: Verdict, at: EpochMs, times: RuleTimes): void {
    const [state, effects] = stepRule(judgement.state, verdict, at, times);
    judgement.state = state;
    judgement.effects.push(...effects.map((effect) => ({ effect, judgedAt: at })));
  }

  /**
   * Measured values are judged once the readings for a moment are due (interval + time-out), in order, what was missed
   * included; a rule that has never judged begins one hold time back. Object states are judged as they are now.
   */
  private momentsDue(rule: Rule, connectionId: string): EpochMs[] {
    const now = this.clock.now();
    switch (rule.kind) {
      case 'readyPods':
        return [now];
      case 'containerMemory': {
        if (!this.endpoints.settled(connectionId)) return [];
        const interval = this.connections.intervalOf(connectionId);
        const last = Math.floor((now - interval - timeoutFor(interval)) / interval) * interval;
        const first = Math.max(rule.judgedMs ?? now - rule.holdsSeconds * 1000 - 4 * interval, now - CATCH_UP);
        const moments: EpochMs[] = [];
        for (let at = Math.floor(first / interval) * interval + interval; at <= last; at += interval) moments.push(at);
        return moments;
      }
    }
  }

  private async subjects(rule: Rule, connectionId: string, measured: boolean): Promise<Iterable<Subject>> {
    const series =
      measured && rule.kind === 'containerMemory' ? await this.memorySeries(connectionId) : new Map<string, SeriesId>();
    const view = {
      name: this.connections.nameOf(connectionId),
      blind: this.connections.isBlind(connectionId),
      interval: this.connections.intervalOf(connectionId),
      inventory: this.inventory.cluster(connectionId),
      memoryOf: (podUid: string, container: string) => {
        const id = series.get(`${podUid}/${container}`);
        return id === undefined ? EMPTY : this.vitals.inUnit(connectionId, MEMORY, this.samples.recent(id));
      },
    };
    switch (rule.kind) {
      case 'containerMemory':
        return memorySubjects(view, rule.above ?? 0.9);
      case 'readyPods':
        return readySubjects(view);
    }
  }
  /** By pod and container; of two that name the same, the first counts. */
  private async memorySeries(connectionId: string): Promise<ReadonlyMap<string, SeriesId>> {
    const series = new Map<string, SeriesId>();
    await inPieces(this.vitals.select(connectionId, MEMORY), (id) => {
      const container = this.vitals.label(connectionId, MEMORY, id, 'container');
      const key = `${this.vitals.podUid(connectionId, MEMORY, id)}/${container}`;
      if (!series.has(key)) series.set(key, id);
    });
    return series;
  }

  // ---- what follows from a state ------------------------------------------------------------------------------

  private async write(
    manager: EntityManager,
    rule: Rule,
    judgement: Judgement,
    alertBefore: number | null,
  ): Promise<void> {
    let alertId = alertBefore;
    for (const { effect, judgedAt } of judgement.effects) {
      if (effect.tell === 'raised') alertId = await this.raise(manager, rule, judgement, effect, judgedAt);
      else {
        if (alertId !== null) await this.end(manager, rule, alertId, effect);
        alertId = null;
      }
    }
    await this.alerts.putState(manager, {
      ruleId: rule.id,
      connectionId: judgement.connectionId,
      subject: judgement.subject.key,
      state: judgement.state,
      alertId,
    });
  }

  private async raise(
    manager: EntityManager,
    rule: Rule,
    { connectionId, subject }: Judgement,
    effect: RuleEffect,
    judgedAt: EpochMs,
  ): Promise<number> {
    const team = this.owners.ownerOf(this.connections.nameOf(connectionId), subject.namespace, subject.workload);
    const facts: AlertFacts = { ...subject.facts(judgedAt, effect.since), team: team?.name ?? null };
    const row = {
      ruleId: rule.id,
      connectionId,
      subject: subject.key,
      severity: rule.severity,
      since: effect.since,
      raisedAt: this.clock.now(),
      facts,
    };
    const id = await this.alerts.raise(manager, row);
    await this.tell(manager, rule, { ...row, id, endedAt: null, endedHow: null }, 'raised');
    return id;
  }
  private async end(
    manager: EntityManager,
    rule: Rule,
    alertId: number,
    effect: Exclude<RuleEffect, { tell: 'raised' }>,
  ): Promise<void> {
    const how = effect.tell === 'cleared' ? 'clear' : effect.why;
    const row = await this.alerts.end(manager, alertId, this.clock.now(), how);
    if (row) await this.tell(manager, rule, row, effect.tell);
  }

  private async tell(
    manager: EntityManager,
    rule: Rule,
    alert: AlertRow,
    change: 'raised' | 'cleared' | 'ended',
  ): Promise<void> {
    const team = this.owners.ownerOf(alert.facts.path[0] ?? '', alert.facts.path[1] ?? '', alert.facts.path[2]);
    if (!team) return; // shown as "nobody was told" wherever the alert is shown
    const { facts } = alert;
    const at = alert.endedAt ?? alert.raisedAt;
    const message = composeMessage({
      ...facts,
      change,
      severity: alert.severity,
      rule: rule.name,
      at,
      since: alert.since,
      reason: change === 'ended' ? `${facts.reason} It ended because: ${alert.endedHow}.` : facts.reason,
      team: team.name,
      link: this.linkTo(facts.path, alert.since, at),
      zone: this.settings.config.zone,
    });
    await this.delivery.enqueue(manager, {
      stableKey: `alert-${alert.id}-${change}-mail-${team.key}`,
      alertId: alert.id,
      recipient: team.email,
      ...message,
    });
  }

  /** Fixed to scope and time, so that it shows the same tomorrow. */
  private linkTo(path: readonly string[], since: EpochMs, at: EpochMs): string {
    const query = writeQuery({ in: writeScope(path), from: Math.min(since - 30 * MINUTE, at - HOUR), to: at + MINUTE });
    return `${this.settings.config.publicUrl}/usage?${query}`;
  }

  // ---- what can be seen and changed ---------------------------------------------------------------------------

  async list(): Promise<RuleAnswer[]> {
    const states = await this.alerts.allStates();
    return (await this.known()).map((rule) => {
      const own = states.filter(({ ruleId }) => ruleId === rule.id);
      return {
        id: rule.id,
        kind: rule.kind,
        name: rule.name,
        enabled: rule.enabled,
        severity: rule.severity,
        holdsSeconds: rule.holdsSeconds,
        easesSeconds: rule.easesSeconds,
        above: rule.above,
        watching: rule.enabled ? (this.watching.get(rule.id) ?? 0) : 0,
        building: own.filter(({ state }) => state.kind === 'building').length,
        raised: own.filter(({ state }) => state.kind === 'raised' || state.kind === 'easing').length,
        judgedAt: rule.judgedMs,
      };
    });
  }

  async change(by: string, id: number, input: RuleChange): Promise<void> {
    const rule = (await this.known()).find((candidate) => candidate.id === id);
    if (!rule) throw new Refusal('notFound', 'There is no such rule.');
    await this.configuration.change(by, `changed the rule “${rule.name}”`, [
      { kind: 'rule', key: rule.kind, after: { ...input, name: rule.name } },
    ]);
  }

  /** What follows from a rule that was edited, by hand, from a file or by taking a revision back. */
  private async edited(key: string, before: RuleDocument | null): Promise<void> {
    await this.exclusive(async () => {
      const rule = (await this.known()).find(({ kind }) => kind === key);
      if (!rule) return;
      await this.alerts.transaction(async (manager) => {
        await manager.update(RuleEntity, rule.id, { judgedMs: null });
        for (const row of await this.alerts.states(rule.id)) {
          const [state, effects] = onRuleEdited(row.state, rule.enabled, this.clock.now());
          const judgement: Judgement = {
            connectionId: row.connectionId,
            subject: goneSubject(row),
            state,
            effects: effects.map((effect) => ({ effect, judgedAt: this.clock.now() })),
          };
          // what is told of an alert is told in the words of the rule that raised it
          await this.write(manager, { ...rule, ...before }, judgement, row.alertId);
        }
      });
    });
    this.live.touch('rules');
    this.live.touch('alerts');
  }
}

/** The rules there are cannot be removed, nor others invented; each has what it needs. */
function checkRules(wanted: Documents): DocumentProblem[] {
  const problems: DocumentProblem[] = [];
  const problem = (key: string, path: string[], text: string) => problems.push({ kind: 'rule', key, path, text });
  for (const kind of RuleKind.options)
    if (wanted.get('rule', kind) === null)
      problem(kind, [], `The rule ${kind} cannot be removed; it can be turned off.`);
  for (const [key, rule] of wanted.all('rule')) {
    if (!RuleKind.safeParse(key).success) problem(key, [], `There is no rule ${key}.`);
    else if ((key === 'containerMemory') !== (rule.above !== null))
      problem(key, ['above'], 'A share of the limit belongs to the memory rule, and to no other.');
  }
  return problems;
}

/** Stands for an object that is not there to be judged any more: only its end is told, from what was kept. */
function goneSubject(row: StateRow): Subject {
  return {
    key: row.subject,
    namespace: '',
    workload: '',
    verdict: () => ({ is: 'gone' }),
    facts: () => {
      throw new Error('an object that is gone raises nothing');
    },
  };
}
