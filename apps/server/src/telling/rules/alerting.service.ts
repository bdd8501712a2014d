import { Injectable } from '@nestjs/common';
import type { AlertFacts } from '@zetopsis/answers/rules';
import {
  clusterOf,
  EVERYTHING,
  namespaceOf,
  type ObjectPath,
  readPath,
  writeQuery,
  writeScope,
} from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
import { composeMessage, hookBody, type LevelEffect, type MessageFacts, saying } from '@zetopsis/core/rules';
import { type EpochMs, HOUR, MINUTE } from '@zetopsis/core/units';
import type { EntityManager } from 'typeorm';
import { OwnersService, type Team } from '../../asking/owners/owners.service.ts';
import { Clock, Settings } from '../../ground/platform/settings.ts';
import { type AlertRow, AlertsService, type ObjectState } from '../../keeping/alerts/alerts.service.ts';
import { OutboxService } from '../../keeping/outbox/outbox.service.ts';
import { Channels } from '../delivery/channels.service.ts';
import { Hushes } from './hushes.service.ts';
import type { Judgement, Rule } from './judgement.ts';

type Ending = Extract<LevelEffect, { tell: 'cleared' | 'ended' }>;
const isEnding = (effect: LevelEffect): effect is Ending => effect.tell === 'cleared' || effect.tell === 'ended';
/** One judgement with what it is written with. */
interface Writing {
  readonly manager: EntityManager;
  readonly rule: Rule;
  readonly judgement: Judgement;
}

/** Keeps alerts as judging has it, and puts what must be told into the outbox in the same transaction. */
@Injectable()
export class Alerting {
  constructor(
    private readonly alerts: AlertsService,
    private readonly owners: OwnersService,
    private readonly outbox: OutboxService,
    private readonly hushes: Hushes,
    private readonly channels: Channels,
    private readonly settings: Settings,
    private readonly clock: Clock,
  ) {}

  /** All that follows for a rule of what was judged of its objects, in the caller's transaction. */
  async write(
    manager: EntityManager,
    rule: Rule,
    judged: readonly { readonly judgement: Judgement; readonly alertId: number | null }[],
  ): Promise<void> {
    const states: ObjectState[] = [];
    for (const { judgement, alertId } of judged)
      states.push({
        connectionId: judgement.connectionId,
        subject: judgement.subject.key,
        state: judgement.state,
        alertId: await this.follow({ manager, rule, judgement }, alertId),
      });
    await this.alerts.putStates(manager, rule.id, states);
  }
  /** The alert that stands afterwards. */
  private async follow(writing: Writing, alertBefore: number | null): Promise<number | null> {
    const { judgement } = writing;
    let alertId = alertBefore;
    let passing = false;
    for (const [i, { effect, judgedAt }] of judgement.effects.entries()) {
      if (effect.tell === 'raised') {
        // what is over again by the time that it is judged is one message
        passing = judgement.effects.slice(i + 1).some(({ effect: later }) => isEnding(later));
        alertId = await this.raise(writing, effect, judgedAt, passing);
      } else if (alertId !== null && isEnding(effect)) {
        await this.end({ ...writing, alertId, effect, judgedAt, passing });
        alertId = null;
      } else if (alertId !== null && !isEnding(effect)) {
        await this.weigh({ ...writing, alertId, effect, judgedAt, silent: passing });
      }
    }
    return alertId;
  }

  private async raise(
    { manager, rule, judgement: { connectionId, subject } }: Writing,
    { severity, since }: Extract<LevelEffect, { tell: 'raised' }>,
    judgedAt: EpochMs,
    silent: boolean,
  ): Promise<number> {
    const row = {
      ruleId: rule.id,
      connectionId,
      subject: subject.key,
      severity,
      since,
      raisedAt: this.clock.now(),
      facts: this.factsOf(rule, subject, judgedAt, since),
      trial: rule.state === 'on trial',
      ...this.hushOver(rule, subject.path),
    };
    const id = await this.alerts.raise(manager, row);
    if (!silent && row.hushed === null)
      await this.tell({
        manager,
        rule,
        alert: { ...row, id, endedAt: null, endedHow: null, taken: null },
        change: 'raised',
        by: null,
      });
    return id;
  }
  /** As the rule calls it, where it has words of its own. */
  private factsOf(
    { title, says, name }: Pick<Rule, 'title' | 'says' | 'name'>,
    subject: Judgement['subject'],
    at: EpochMs,
    since: EpochMs,
  ): AlertFacts {
    const facts = { ...subject.facts(at, since), team: this.owners.ownerAt(subject.path)?.name ?? null };
    if (title === '' && says === '') return facts;
    const fields = {
      object: subject.name,
      place: facts.place.join(' › '),
      cluster: clusterOf(subject.path) ?? '',
      namespace: namespaceOf(subject.path) ?? '',
      value: facts.value,
      limit: facts.limit,
      reason: facts.reason,
      evidence: facts.evidence,
      team: facts.team ?? '',
      rule: name,
    };
    return {
      ...facts,
      ...(title === '' ? {} : { title: saying(title, fields).slice(0, 160) }),
      ...(says === '' ? {} : { reason: saying(says, fields).slice(0, 2000) }),
    };
  }
  /** It got worse, which is told, or lighter, which the next message says. */
  private async weigh({
    manager,
    rule,
    judgement: { subject },
    alertId,
    effect,
    judgedAt,
    silent,
  }: Writing & {
    readonly alertId: number;
    readonly effect: Exclude<LevelEffect, Ending>;
    readonly judgedAt: EpochMs;
    readonly silent: boolean;
  }): Promise<void> {
    const worse = effect.tell === 'worse';
    const severity: Severity = worse ? 'critical' : 'warning';
    const facts = worse ? this.factsOf(rule, subject, judgedAt, effect.since) : null;
    const row = await this.alerts.setSeverity({ manager, id: alertId, severity, facts });
    if (row && worse && !silent)
      await this.tell({ manager, rule, alert: row, change: 'worse', by: null, at: effect.at });
  }
  private async end({
    manager,
    rule,
    judgement,
    alertId,
    effect,
    judgedAt,
    passing,
  }: Writing & {
    readonly alertId: number;
    readonly effect: Ending;
    readonly judgedAt: EpochMs;
    readonly passing: boolean;
  }): Promise<void> {
    const how = effect.tell === 'cleared' ? 'clear' : effect.why;
    const row = await this.alerts.end({ manager, id: alertId, at: this.clock.now(), how });
    if (!row) return;
    // whoever was never told that it began is not told that it ended
    if (row.hushed !== null && !(await this.outbox.hasOf(manager, row.id))) return;
    const change = passing ? 'passed' : effect.tell;
    await this.tell({ manager, rule, alert: row, change, by: standsBy(judgement, effect, judgedAt) });
  }

  /** What a hush kept quiet and still stands is told when the hush is over. */
  async tellAfterHush(rules: readonly Rule[]): Promise<void> {
    for (const alert of await this.alerts.hushed()) {
      const rule = rules.find(({ id }) => id === alert.ruleId);
      if (!rule || this.hushOver(rule, readPath(alert.facts.path) ?? EVERYTHING).hushed !== null) continue;
      await this.alerts.transaction(async (manager) => {
        if (!(await this.alerts.setHushed({ manager, id: alert.id, key: null, reason: null }))) return;
        const told = await this.outbox.hasOf(manager, alert.id);
        const at = this.clock.now();
        if (!told) await this.tell({ manager, rule, alert, change: 'raised', by: null, at });
        else if (alert.severity === 'critical')
          await this.tell({ manager, rule, alert, change: 'worse', by: null, at });
      });
    }
  }
  private hushOver(rule: Rule, path: ObjectPath): Pick<AlertRow, 'hushKey' | 'hushed'> {
    const team = this.toldOf(rule, path);
    const hush = team && this.hushes.over({ path, rule: rule.key, team: team.key });
    return { hushKey: hush?.key ?? null, hushed: hush?.reason ?? null };
  }

  private async tell({
    manager,
    rule,
    alert,
    change,
    by,
    at = alert.endedAt ?? alert.raisedAt,
  }: {
    readonly manager: EntityManager;
    readonly rule: Rule;
    readonly alert: AlertRow;
    readonly change: MessageFacts['change'];
    readonly by: By;
    readonly at?: EpochMs;
  }): Promise<void> {
    const team = this.toldOf(rule, readPath(alert.facts.path) ?? EVERYTHING);
    if (!team || alert.trial) return; // shown as "nobody was told" wherever the alert is shown
    const { facts } = alert;
    const said: MessageFacts = {
      ...facts,
      change,
      by,
      severity: alert.severity,
      rule: rule.name,
      at,
      since: alert.since,
      reason: change === 'ended' ? `${facts.reason} It ended because: ${alert.endedHow}.` : facts.reason,
      runbook: rule.runbook,
      links: rule.links,
      team: team.name,
      link: this.linkTo(facts.path, alert.since, at),
      zone: this.settings.config.zone,
    };
    // it may get worse several times
    const nth = change === 'worse' ? `worse-${at}` : change;
    const about = `alert-${alert.id}-${nth}`;
    const message = composeMessage(said);
    await this.outbox.enqueue(manager, {
      stableKey: `${about}-mail-${team.key}`,
      alertId: alert.id,
      recipient: team.email,
      channel: null,
      ...message,
    });
    const { subject } = message;
    const hookKey = (channel: string) => `${about}-hook-${channel}`;
    for (const outgoing of this.channels.messagesTo(team.key, change, (channel) => hookBody(hookKey(channel), said)))
      await this.outbox.enqueue(manager, {
        stableKey: hookKey(outgoing.channel),
        alertId: alert.id,
        ...outgoing,
        subject,
        html: '',
      });
  }
  /** Whom the rule names, the team that wrote it, or the owner of what it is about. */
  private toldOf({ tells, team }: Rule, path: ObjectPath): Team | null {
    const named = tells ?? team;
    if (named !== null) return this.owners.teams().find(({ key }) => key === named) ?? null;
    return this.owners.ownerAt(path);
  }

  /** Fixed to scope and time, so that it shows the same tomorrow. */
  private linkTo(path: readonly string[], since: EpochMs, at: EpochMs): string {
    const query = writeQuery({ in: writeScope(path), from: Math.min(since - 30 * MINUTE, at - HOUR), to: at + MINUTE });
    return `${this.settings.config.publicUrl}/usage?${query}`;
  }
}

/** How what is clear again stands at the moment it was judged. */
type By = MessageFacts['by'];
function standsBy({ subject }: Judgement, effect: Ending, judgedAt: EpochMs): By {
  // what was not found any more cannot be asked how it stands
  if (effect.tell !== 'cleared' || !subject.there) return null;
  const { value, share } = subject.facts(judgedAt, effect.since);
  return { value, share };
}
