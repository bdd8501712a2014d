import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import type { AlertAnswer } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import type { EpochMs } from '@zetopsis/core/units';
import { Repository } from 'typeorm';
import { ConfigurationService } from '../configuration/configuration.service.ts';
import { DeliveryService } from '../delivery/delivery.service.ts';
import { type AlertRow, AlertStore } from './alert.store.ts';
import { RuleEntity } from './rule.entity.ts';

/** Looked through before what nobody may see is left out. */
const MOST = 5000;

/** Alerts as people see them: with their rule, their state and who was told. */
@Injectable()
export class AlertsService {
  constructor(
    @InjectRepository(RuleEntity) private readonly rules: Repository<RuleEntity>,
    private readonly configuration: ConfigurationService,
    private readonly alerts: AlertStore,
    private readonly delivery: DeliveryService,
  ) {}

  async open(reach: Reach): Promise<AlertAnswer[]> {
    return this.answers((await this.alerts.open()).filter(({ facts }) => reach.sees(facts.path)));
  }
  async within(reach: Reach, from: EpochMs, to: EpochMs, limit = 500): Promise<AlertAnswer[]> {
    const rows = await this.alerts.within(from, to, MOST);
    return this.answers(rows.filter(({ facts }) => reach.sees(facts.path)).slice(0, limit));
  }

  /** What a message speaks of; null when of no alert. */
  async pathOfDelivery(id: number): Promise<readonly string[] | null> {
    const alertId = await this.delivery.alertOf(id);
    return alertId === null ? null : this.alerts.pathOf(alertId);
  }

  private async answers(rows: readonly AlertRow[]): Promise<AlertAnswer[]> {
    const [rules, states, told] = await Promise.all([
      this.rules.find(),
      this.alerts.allStates(),
      this.delivery.ofAlerts(rows.map(({ id }) => id)),
    ]);
    return rows.map((row) => {
      const state = states.find(({ alertId }) => alertId === row.id)?.state;
      const raised = state?.kind === 'easing' ? state.raised : state;
      return {
        id: row.id,
        rule: this.configuration.get('rule', rules.find(({ id }) => id === row.ruleId)?.kind ?? '')?.name ?? '',
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
