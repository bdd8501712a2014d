import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { type Subject } from '@zetopsis/answers/rules';
import { type RuleAnswer, type RuleChange, type RuleDocument, RuleKind } from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
import { CLEAR, onRuleEdited, type RuleTimes, ruleOf, stepRule, type Verdict } from '@zetopsis/core/rules';
import { type EpochMs } from '@zetopsis/core/units';
import pLimit from 'p-limit';
import { Repository } from 'typeorm';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import type { DocumentProblem, Documents } from '../../ground/configuration/documents.ts';
import { LiveService } from '../../ground/live/live.service.ts';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { AlertsService, type StateRow } from '../../keeping/alerts/alerts.service.ts';
import { RuleEntity } from '../../keeping/alerts/rule.entity.ts';
import { Alerting, lighter } from './alerting.service.ts';
import type { Judgement, Rule } from './judgement.ts';
import { RuleSubjects } from './ruleSubjects.service.ts';

const JUDGE_EVERY = 1000;

/** Judges the rules; what follows of it is written in one transaction. */
@Injectable()
export class RulesService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly judging = new Repeated(() => this.exclusive(() => this.judgeAll()), JUDGE_EVERY);
  private watching = new Map<number, number>();
  /** Objects that a rule looks at in a cluster, when they were looked at last. */
  private readonly counted = new Map<string, number>();

  constructor(
    @InjectRepository(RuleEntity) private readonly rules: Repository<RuleEntity>,
    private readonly alerts: AlertsService,
    private readonly configuration: ConfigurationService,
    private readonly connections: ConnectionsService,
    private readonly subjects: RuleSubjects,
    private readonly alerting: Alerting,
    private readonly clock: Clock,
    private readonly live: LiveService,
    private readonly log: ServerLog,
  ) {}

  onApplicationBootstrap(): void {
    this.configuration.addCheck(checkRules);
    this.configuration.onApplied('rule', ({ key, before }) => this.edited(key, before));
    this.judging.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.judging.stop();
  }

  /** Judging and editing never overlap. */
  private readonly inOrder = pLimit(1);
  private exclusive(work: () => Promise<void>): Promise<void> {
    return this.inOrder(work).catch((error: unknown) => this.log.failure('rulesNotJudged', error));
  }

  private async judgeAll(): Promise<void> {
    for (const rule of await this.known()) if (rule.enabled && !this.judging.ending) await this.judge(rule);
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
    /** By alert. */
    const grave = new Map<number, Severity>();
    let judgedUntil = rule.judgedMs ?? 0;
    let watching = 0;
    for (const connectionId of this.connections.ids()) {
      const moments = this.subjects.momentsDue(rule, connectionId);
      const kept = [...states.values()].filter((row) => row.connectionId === connectionId);
      const counted = `${rule.id} ${connectionId}`;
      // nothing is due, and nothing could be gone: what is looked at is the same as before
      if (moments.length === 0 && kept.length === 0 && this.counted.has(counted)) {
        watching += this.counted.get(counted)!;
        continue;
      }
      const present = new Set<string>();
      await inPieces(await this.subjects.of(rule, connectionId, moments.length > 0), (subject) => {
        present.add(subject.key);
        if (moments.length === 0) return;
        const known = states.get(`${connectionId} ${subject.key}`);
        const judgement: Judgement = { connectionId, subject, state: known?.state ?? CLEAR, effects: [] };
        let holds = false;
        for (const at of moments) {
          const verdict = subject.verdict(at);
          this.step({ judgement, verdict, at, times });
          holds = verdict.is === 'holds';
        }
        // what stands on Now is as grave as what is found, also when that changes
        const found = holds && known?.alertId != null ? subject.severity(moments.at(-1)!) : null;
        if (found !== null) grave.set(known!.alertId!, lighter(rule.severity, found));
        if (judgement.state !== (known?.state ?? CLEAR) || judgement.effects.length > 0) judgements.push(judgement);
      });
      this.counted.set(counted, present.size);
      watching += present.size;
      // an object is gone only when the cluster itself says so
      if (!this.connections.isBlind(connectionId)) {
        for (const row of kept) {
          if (present.has(row.subject)) continue;
          const judgement: Judgement = { connectionId, subject: goneSubject(row), state: row.state, effects: [] };
          this.step({ judgement, verdict: { is: 'gone' }, at: this.clock.now(), times });
          judgements.push({ ...judgement, state: CLEAR });
        }
      }
      if (moments.length > 0) judgedUntil = Math.max(judgedUntil, moments.at(-1)!);
    }
    this.watching.set(rule.id, watching);
    await this.keepGrave(rule.id, grave);
    if (judgements.length === 0 && judgedUntil === (rule.judgedMs ?? 0)) return;
    await this.alerts.transaction(async (manager) => {
      for (const judgement of judgements) {
        const alertId = states.get(`${judgement.connectionId} ${judgement.subject.key}`)?.alertId ?? null;
        await this.alerting.write({ manager, rule, judgement, alertBefore: alertId });
      }
      await this.alerts.judged(manager, rule.id, judgedUntil);
    });
    if (judgements.some(({ effects }) => effects.length > 0)) this.live.touch('alerts');
  }

  /** Severities of raised alerts as they were written last, by rule. */
  private readonly graveness = new Map<number, ReadonlyMap<number, Severity>>();
  private async keepGrave(ruleId: number, grave: ReadonlyMap<number, Severity>): Promise<void> {
    const before = this.graveness.get(ruleId);
    let changed = false;
    for (const [alertId, severity] of grave)
      if (before?.get(alertId) !== severity && (await this.alerts.setSeverity(alertId, severity))) changed = true;
    this.graveness.set(ruleId, grave);
    if (changed) this.live.touch('alerts');
  }

  private step({
    judgement,
    verdict,
    at,
    times,
  }: {
    readonly judgement: Judgement;
    readonly verdict: Verdict;
    readonly at: EpochMs;
    readonly times: RuleTimes;
  }): void {
    const [state, effects] = stepRule({ state: judgement.state, verdict, at, times });
    judgement.state = state;
    judgement.effects.push(...effects.map((effect) => ({ effect, judgedAt: at })));
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
        // at no time is before all times: it was not judged yet
        judgedAt: rule.judgedMs === null || rule.judgedMs <= 0 ? null : rule.judgedMs,
      };
    });
  }

  async change(by: string, id: number, input: RuleChange): Promise<void> {
    const rule = (await this.known()).find((candidate) => candidate.id === id);
    if (!rule) throw new Refusal('notFound', 'There is no such rule.');
    await this.configuration.change({
      by,
      what: `changed the rule “${rule.name}”`,
      wishes: [{ kind: 'rule', key: rule.kind, after: { ...input, name: rule.name } }],
    });
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
          await this.alerting.write({ manager, rule: { ...rule, ...before }, judgement, alertBefore: row.alertId });
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
    const kind = RuleKind.safeParse(key);
    if (!kind.success) problem(key, [], `There is no rule ${key}.`);
    else if (ruleOf(kind.data).hasLimit !== (rule.above !== null))
      problem(key, ['above'], 'A share of the limit belongs to rules that compare with one, and to no other.');
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
    severity: () => null,
    facts: () => {
      throw new Error('an object that is gone raises nothing');
    },
  };
}
