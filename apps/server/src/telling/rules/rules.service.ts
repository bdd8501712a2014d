import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import type { RuleDocument } from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
import {
  ALL_CLEAR,
  bothLevels,
  conditionOf,
  isAllClear,
  isTold,
  isWithinHours,
  type LevelVerdicts,
  onLevelsEdited,
  RULE_LEVELS,
  stepLevels,
  timesOf,
  worstRaised,
} from '@zetopsis/core/rules';
import type { EpochMs } from '@zetopsis/core/units';
import { groupBy } from '@zetopsis/core/usage';
import pLimit, { type LimitFunction } from 'p-limit';
import { Repository } from 'typeorm';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import type { DocumentChange } from '../../ground/configuration/documents.ts';
import { LiveService } from '../../ground/live/live.service.ts';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { AlertsService, type StateRow } from '../../keeping/alerts/alerts.service.ts';
import { RuleEntity } from '../../keeping/alerts/rule.entity.ts';
import { LeaseService } from '../../keeping/store/lease.service.ts';
import { Alerting } from './alerting.service.ts';
import { goneSubject, type Judgement, type Look, type Rule } from './judgement.ts';
import { RuleCosts } from './ruleCosts.ts';
import { RuleLooks } from './ruleLooks.service.ts';

const JUDGE_EVERY = 1000;
/** What could not be judged is tried again after this. */
const AGAIN_AFTER = 30_000;
/** Rules that are numbered in one question to the database. */
const AT_ONCE = 500;

interface Lane {
  readonly takes: (rule: Rule) => boolean;
  readonly inOrder: LimitFunction;
  readonly judging: Repeated;
  /** Rules that are judged beside each other: one that waits for what it reads leaves the turn to the next. */
  readonly atOnce: number;
  passedAt: EpochMs | null;
}

/** Judges the rules; what follows of it is written in one transaction. */
@Injectable()
export class RulesService implements OnApplicationBootstrap, OnApplicationShutdown {
  /** What reads a measure may take long: it holds up none of those that look at how things stand. */
  private readonly lanes = {
    standing: this.lane(({ when }) => !conditionOf(when).lines, 1),
    measures: this.lane(({ when }) => conditionOf(when).lines, 4),
  };
  private readonly notBefore = new Map<number, EpochMs>();
  /** When all that was due had been judged last, in both lanes. */
  get judgedAt(): EpochMs | null {
    if (this.lease.epoch === 0) return null;
    const [standing, measures] = Object.values(this.lanes).map(({ passedAt }) => passedAt);
    return standing === null || measures === null ? null : Math.min(standing!, measures!);
  }

  constructor(
    @InjectRepository(RuleEntity) private readonly rules: Repository<RuleEntity>,
    private readonly alerts: AlertsService,
    private readonly configuration: ConfigurationService,
    private readonly looks: RuleLooks,
    private readonly alerting: Alerting,
    private readonly costs: RuleCosts,
    private readonly lease: LeaseService,
    private readonly clock: Clock,
    private readonly live: LiveService,
    private readonly log: ServerLog,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    this.configuration.onAllApplied('rule', (changes) => this.edited(changes));
    await this.numberAll();
    this.costs.onAsked(() => this.numbered);
    // another process may have judged meanwhile
    this.lease.onChange((held) => {
      if (held) void this.alone(() => this.numberAll());
    });
    for (const { judging } of Object.values(this.lanes)) judging.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await Promise.all(Object.values(this.lanes).map(({ judging }) => judging.stop()));
  }

  /** Judging and editing never overlap. */
  private lane(takes: (rule: Rule) => boolean, atOnce: number): Lane {
    const inOrder = pLimit(1);
    const judging: Repeated = new Repeated(() => inOrder(() => this.judgeAll(lane)).catch(this.failed), JUDGE_EVERY);
    const lane: Lane = { takes, inOrder, judging, atOnce, passedAt: null };
    return lane;
  }
  private readonly failed = (error: unknown) => this.log.failure('rulesNotJudged', error);
  private alone(work: () => Promise<void>): Promise<void> {
    const { standing, measures } = this.lanes;
    return standing.inOrder(() => measures.inOrder(work)).catch(this.failed);
  }
  /** Each document of a rule has a number, under which its states and alerts are kept; known here, since nobody else judges. */
  private numbered: readonly RuleEntity[] = [];
  private async numberAll(): Promise<void> {
    const known = new Set((await this.rules.find()).map(({ key }) => key));
    const fresh = [...this.configuration.all('rule').keys()].filter((key) => !known.has(key));
    for (let i = 0; i < fresh.length; i += AT_ONCE)
      await this.rules.insert(fresh.slice(i, i + AT_ONCE).map((key) => ({ key, judgedMs: null })));
    this.numbered = await this.rules.find({ order: { id: 'ASC' } });
  }

  /** Every rule with what is configured for it now. */
  known(): Rule[] {
    return this.numbered.flatMap((entity) => {
      const document = this.configuration.get('rule', entity.key);
      return document === null ? [] : [{ ...document, ...entity }];
    });
  }
  /** Judged at once, whatever its rhythm is. */
  async judgeNow(key: string): Promise<void> {
    const rule = this.known().find((one) => one.key === key);
    const lane = rule && Object.values(this.lanes).find(({ takes }) => takes(rule));
    await lane?.inOrder(async () => {
      const now = this.known().find((one) => one.key === key);
      if (!now || now.state === 'off') return;
      const until = await this.judge({ ...now, judgedSeconds: null }, await this.alerts.statesOf([now.id]));
      if (until !== null) await this.judgedUntil(new Map([[now.id, until]]));
    });
  }

  private async judgeAll(lane: Lane): Promise<void> {
    // another process judges
    if (this.lease.epoch === 0) return;
    await this.judgeDue(lane);
    lane.passedAt = this.clock.now();
  }
  private async judgeDue({ takes, judging, atOnce }: Lane): Promise<void> {
    const now = this.clock.now();
    const known = this.known();
    if (takes === this.lanes.standing.takes) await this.alerting.tellAfterHush(known);
    const rules = known.filter(
      (rule) =>
        takes(rule) && rule.state !== 'off' && now >= (this.notBefore.get(rule.id) ?? 0) && this.looks.isDue(rule),
    );
    if (rules.length === 0) return;
    const rows = groupBy(await this.alerts.statesOf(rules.map(({ id }) => id)), ({ ruleId }) => ruleId);
    const judged = new Map<number, EpochMs>();
    const some = pLimit(atOnce);
    await some.map(rules, async (rule) => {
      if (judging.ending) return;
      const until = await this.judgeDueOne(rule, rows.get(rule.id) ?? [], now);
      if (until !== null) judged.set(rule.id, until);
    });
    await this.judgedUntil(judged);
  }
  /** One that cannot be judged is named, and holds up no other. */
  private async judgeDueOne(rule: Rule, rows: readonly StateRow[], now: EpochMs): Promise<EpochMs | null> {
    const began = performance.now();
    try {
      return await this.judge(rule, rows);
    } catch (error) {
      this.notBefore.set(rule.id, now + AGAIN_AFTER);
      const problem =
        error instanceof Refusal ? error.message : 'something went wrong inside; the server’s log says what';
      if (!(error instanceof Refusal)) this.log.failure('ruleNotJudged', error);
      this.costs.set(rule.id, {
        tookMs: performance.now() - began,
        matched: this.costs.of(rule.id)?.matched ?? 0,
        problem,
      });
      this.live.touch('rules');
      return null;
    }
  }
  /** Of rules of which nothing else changed: judged again from there after a crash, they come to the same. */
  private async judgedUntil(judged: ReadonlyMap<number, EpochMs>): Promise<void> {
    if (judged.size > 0) await this.alerts.judgedAll(judged);
    for (const entity of this.numbered) entity.judgedMs = judged.get(entity.id) ?? entity.judgedMs;
  }

  /** Up to when it is judged now, where that is not written yet; null where nothing is left to write. */
  private async judge(rule: Rule, rows: readonly StateRow[]): Promise<EpochMs | null> {
    const began = performance.now();
    const judgements: { readonly judgement: Judgement; readonly alertId: number | null }[] = [];
    let judgedUntil = rule.judgedMs ?? 0;
    let matched = 0;
    let looked = false;
    let problem: string | null = null;
    for await (const look of this.looks.of(rule)) {
      const kept = rows.filter((row) => look.keeps(row));
      if (look.moments.length > 0) looked = true;
      else if (kept.length === 0) continue;
      matched += await this.judgeLook({ rule, look, kept, judgements });
      judgedUntil = Math.max(judgedUntil, look.moments.at(-1) ?? 0);
      problem ??= look.problem ?? null;
    }
    if (looked) this.costs.set(rule.id, { tookMs: performance.now() - began, matched, problem });
    if (judgements.length === 0) return judgedUntil === (rule.judgedMs ?? 0) ? null : judgedUntil;
    await this.alerts.transaction(async (manager) => {
      await this.alerting.write(manager, rule, judgements);
      await this.alerts.judged(manager, rule.id, judgedUntil);
    });
    const entity = this.numbered.find(({ id }) => id === rule.id);
    if (entity) entity.judgedMs = judgedUntil;
    if (judgements.some(({ judgement }) => judgement.effects.length > 0)) this.live.touch('alerts');
    return null;
  }
  /** How many objects there are; what changed of them is added to the judgements. */
  private async judgeLook({
    rule,
    look,
    kept,
    judgements,
  }: {
    readonly rule: Rule;
    readonly look: Look;
    readonly kept: readonly StateRow[];
    readonly judgements: { readonly judgement: Judgement; readonly alertId: number | null }[];
  }): Promise<number> {
    const times = timesOf(rule.levels, rule.clears.afterSeconds);
    const keyOf = (connectionId: string | null, subject: string) => `${connectionId} ${subject}`;
    const states = new Map(kept.map((row) => [keyOf(row.connectionId, row.subject), row]));
    const present = new Set<string>();
    const { hours } = rule;
    // all objects are judged at the same few moments
    const open = new Map<EpochMs, boolean>();
    const isOpen = (at: EpochMs): boolean => {
      const known = open.get(at) ?? (hours === null || isWithinHours(hours, at));
      open.set(at, known);
      return known;
    };
    const step = (judgement: Judgement, told: LevelVerdicts, at: EpochMs) => {
      // outside of its hours nothing holds
      const verdicts = isOpen(at) ? told : bothLevels({ is: 'breaks' });
      const [state, effects] = stepLevels({ states: judgement.state, verdicts, at, times });
      judgement.state = state;
      judgement.effects.push(...effects.map((effect) => ({ effect, judgedAt: at })));
    };
    await inPieces(look.subjects, (subject) => {
      const connectionId = look.connectionOf(subject);
      const key = keyOf(connectionId, subject.key);
      present.add(key);
      const known = states.get(key);
      const judgement: Judgement = { connectionId, subject, state: known?.state ?? ALL_CLEAR, effects: [] };
      for (const at of look.moments) step(judgement, subject.verdicts(at), at);
      if (isChanged(judgement, known)) judgements.push({ judgement, alertId: known?.alertId ?? null });
    });
    for (const [key, row] of states) {
      const verdicts = present.has(key) ? null : look.absent(row);
      if (verdicts === null) continue;
      const judgement: Judgement = {
        connectionId: row.connectionId,
        subject: goneSubject(row),
        state: row.state,
        effects: [],
      };
      step(judgement, verdicts, look.moments.at(-1) ?? this.clock.now());
      if (isChanged(judgement, row)) judgements.push({ judgement, alertId: row.alertId });
    }
    return present.size;
  }

  /** What follows from rules that were edited, by hand, from a file or by taking a revision back. */
  private async edited(changes: readonly DocumentChange<'rule'>[]): Promise<void> {
    await this.alone(async () => {
      await this.numberAll();
      const entities = new Map(this.numbered.map((entity) => [entity.key, entity]));
      const own = changes.flatMap((change) => {
        const entity = entities.get(change.key);
        const document = this.configuration.get('rule', change.key) ?? change.before;
        return entity && document ? [{ entity, document, before: change.before }] : [];
      });
      const rows = groupBy(await this.alerts.statesOf(own.map(({ entity }) => entity.id)), ({ ruleId }) => ruleId);
      for (const { entity, document, before } of own) {
        this.notBefore.delete(entity.id);
        // what was never judged has nothing that could follow
        if (entity.judgedMs === null && !rows.has(entity.id)) continue;
        await this.editedOne(entity, document, before, rows.get(entity.id) ?? []);
      }
    });
    this.live.touch('rules');
    this.live.touch('alerts');
  }
  private async editedOne(
    entity: RuleEntity,
    document: RuleDocument,
    before: RuleDocument | null,
    rows: readonly StateRow[],
  ): Promise<void> {
    const there = this.configuration.get('rule', entity.key) !== null;
    const told = document.state !== 'off' && there;
    // on trial nobody is told: what was told before is over for them, and the other way round it begins anew
    const same =
      told &&
      (before?.state === 'on trial') === (document.state === 'on trial') &&
      before?.when.is === document.when.is;
    const now = this.clock.now();
    await this.alerts.transaction(async (manager) => {
      await manager.update(RuleEntity, entity.id, { judgedMs: null });
      const times = timesOf(document.levels, document.clears.afterSeconds);
      const judged = rows.map((row) => {
        const [state, effects] = onLevelsEdited({ states: row.state, times, stillMatched: same, at: now });
        const judgement: Judgement = {
          connectionId: row.connectionId,
          subject: goneSubject(row),
          state,
          effects: effects.map((effect) => ({ effect, judgedAt: now })),
        };
        return { judgement, alertId: row.alertId };
      });
      // what is told of an alert is told in the words of the rule that raised it
      await this.alerting.write(manager, { ...document, ...before, ...entity }, judged);
    });
    entity.judgedMs = null;
  }
}

/** Nothing is written of what was clear and still is. */
function isChanged({ state, effects }: Judgement, known: StateRow | undefined): boolean {
  if (effects.length > 0) return true;
  if (known === undefined) return !isAllClear(state);
  return RULE_LEVELS.some((level) => state[level] !== known.state[level]);
}
/** How many objects of a rule build towards being raised, and how many are. */
export function countsOf(rows: readonly StateRow[]): {
  readonly building: number;
  readonly raised: number;
  readonly worst: Severity | null;
} {
  const raised = rows.filter(({ state }) => RULE_LEVELS.some((level) => isTold(state[level]))).length;
  const worst = rows.map(({ state }) => worstRaised(state));
  const gravest = RULE_LEVELS.findLast((level) => worst.includes(level)) ?? null;
  return { building: rows.length - raised, raised, worst: gravest };
}
