import { Injectable } from '@nestjs/common';
import { type AlertFacts } from '@zetopsis/answers/rules';
import { EVERYTHING, readPath, writeQuery, writeScope } from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
import { composeMessage, type MessageFacts, type RuleEffect } from '@zetopsis/core/rules';
import { type EpochMs, HOUR, MINUTE } from '@zetopsis/core/units';
import { type EntityManager } from 'typeorm';
import { OwnersService } from '../../asking/owners/owners.service.ts';
import { Clock, Settings } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { type AlertRow, AlertsService } from '../../keeping/alerts/alerts.service.ts';
import { OutboxService } from '../../keeping/outbox/outbox.service.ts';

import type { Judgement, Rule } from './judgement.ts';

/** Keeps alerts as judging has it, and puts what must be told into the outbox in the same transaction. */
@Injectable()
export class Alerting {
  constructor(
    private readonly alerts: AlertsService,
    private readonly connections: ConnectionsService,
    private readonly owners: OwnersService,
    private readonly outbox: OutboxService,
    private readonly settings: Settings,
    private readonly clock: Clock,
  ) {}

  async write({
    manager,
    rule,
    judgement,
    alertBefore,
  }: {
    readonly manager: EntityManager;
    readonly rule: Rule;
    readonly judgement: Judgement;
    readonly alertBefore: number | null;
  }): Promise<void> {
    let alertId = alertBefore;
    for (const { effect, judgedAt } of judgement.effects) {
      if (effect.tell === 'raised') alertId = await this.raise({ manager, rule, judgement, effect, judgedAt });
      else {
        if (alertId !== null)
          await this.end({ manager, rule, alertId, effect, by: standsBy(judgement, effect, judgedAt) });
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

  private async raise({
    manager,
    rule,
    judgement: { connectionId, subject },
    effect,
    judgedAt,
  }: {
    readonly manager: EntityManager;
    readonly rule: Rule;
    readonly judgement: Judgement;
    readonly effect: RuleEffect;
    readonly judgedAt: EpochMs;
  }): Promise<number> {
    const team = this.owners.ownerOf(this.connections.nameOf(connectionId), subject.namespace, subject.workload);
    const facts: AlertFacts = { ...subject.facts(judgedAt, effect.since), team: team?.name ?? null };
    const row = {
      ruleId: rule.id,
      connectionId,
      subject: subject.key,
      severity: lighter(rule.severity, subject.severity(judgedAt)),
      since: effect.since,
      raisedAt: this.clock.now(),
      facts,
    };
    const id = await this.alerts.raise(manager, row);
    await this.tell({
      manager,
      rule,
      alert: { ...row, id, endedAt: null, endedHow: null },
      change: 'raised',
      by: null,
    });
    return id;
  }
  private async end({
    manager,
    rule,
    alertId,
    effect,
    by,
  }: {
    readonly manager: EntityManager;
    readonly rule: Rule;
    readonly alertId: number;
    readonly effect: Exclude<RuleEffect, { tell: 'raised' }>;
    readonly by: By;
  }): Promise<void> {
    const how = effect.tell === 'cleared' ? 'clear' : effect.why;
    const row = await this.alerts.end({ manager, id: alertId, at: this.clock.now(), how });
    if (row) await this.tell({ manager, rule, alert: row, change: effect.tell, by });
  }

  private async tell({
    manager,
    rule,
    alert,
    change,
    by,
  }: {
    readonly manager: EntityManager;
    readonly rule: Rule;
    readonly alert: AlertRow;
    readonly change: 'raised' | 'cleared' | 'ended';
    readonly by: By;
  }): Promise<void> {
    const team = this.owners.ownerAt(readPath(alert.facts.path) ?? EVERYTHING);
    if (!team) return; // shown as "nobody was told" wherever the alert is shown
    const { facts } = alert;
    const at = alert.endedAt ?? alert.raisedAt;
    const message = composeMessage({
      ...facts,
      change,
      by,
      severity: alert.severity,
      rule: rule.name,
      at,
      since: alert.since,
      reason: change === 'ended' ? `${facts.reason} It ended because: ${alert.endedHow}.` : facts.reason,
      team: team.name,
      link: this.linkTo(facts.path, alert.since, at),
      zone: this.settings.config.zone,
    });
    await this.outbox.enqueue(manager, {
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
}

/** A rule says how loud it may be at most; what is found says how grave it is. */
export const lighter = (rule: Severity, found: Severity | null): Severity =>
  rule === 'warning' || found === 'warning' ? 'warning' : 'critical';

/** How what is clear again stands at the moment it was judged. */
type By = MessageFacts['by'];
function standsBy({ subject }: Judgement, effect: RuleEffect, judgedAt: EpochMs): By {
  if (effect.tell !== 'cleared') return null;
  const { value, share } = subject.facts(judgedAt, effect.since);
  return { value, share };
}
