import { Body, Controller, Get, HttpCode, Param, Patch, Post, Req } from '@nestjs/common';
import { EVERYTHING, placeOf, RowNumber, RuleChange, type RulesAnswer } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { OwnersService } from '../../asking/owners/owners.service.ts';
import { Audited, numbered } from '../../ground/guard/action.ts';
import { Seen } from '../../ground/guard/reached.ts';
import { Administrators, type KnownRequest } from '../../ground/guard/route.ts';
import { LiveService } from '../../ground/live/live.service.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { AlertsService } from '../../keeping/alerts/alerts.service.ts';
import { OutboxService } from '../../keeping/outbox/outbox.service.ts';
import { DeliveryService } from '../delivery/delivery.service.ts';
import { RulesService } from './rules.service.ts';

const HISTORY = 7 * 86_400_000;

@Controller('api')
export class RulesController {
  constructor(
    private readonly rules: RulesService,
    private readonly alerts: AlertsService,
    private readonly owners: OwnersService,
    private readonly delivery: DeliveryService,
    private readonly outbox: OutboxService,
    private readonly live: LiveService,
    private readonly clock: Clock,
  ) {}

  @Get('rules')
  async all(@Seen() reach: Reach): Promise<RulesAnswer> {
    const now = this.clock.now();
    const everything = reach.mayEverywhere('read');
    const [rules, history] = await Promise.all([
      this.rules.list(),
      this.alerts.within({ reach, from: now - HISTORY, to: now, limit: 100 }),
    ]);
    return {
      // how many objects a rule looks at, and how many alerts it has, speaks of all clusters
      rules: everything ? rules : rules.map((rule) => ({ ...rule, ...this.countsFor(rule.name, history) })),
      mayChange: reach.mayEverywhere('administer'),
      unowned: everything ? [...new Set(this.owners.unowned().map(({ namespace }) => namespace))] : [],
      history,
      deliveries: await this.outbox.newest(everything ? null : history.map(({ id }) => id)),
      mail: this.delivery.configured,
    };
  }
  private countsFor(name: string, history: RulesAnswer['history']) {
    return {
      watching: null,
      building: null,
      raised: history.filter(({ rule, endedAt }) => rule === name && endedAt === null).length,
    };
  }
  @Administrators()
  @Audited('change a rule', numbered)
  @Patch('rules/:id')
  @HttpCode(204)
  async change(
    @Param('id', { schema: RowNumber }) id: number,
    @Body({ schema: RuleChange }) body: RuleChange,
    @Req() request: KnownRequest,
  ): Promise<void> {
    await this.rules.change(request.who, id, body);
  }

  /** A dead letter is tried again; by whoever operates what it speaks of. */
  @Audited('try a message again', numbered)
  @Post('deliveries/:id/retry')
  @HttpCode(204)
  async retry(@Param('id', { schema: RowNumber }) id: number, @Seen() reach: Reach): Promise<void> {
    const path = await this.alerts.pathOfDelivery(id);
    const { cluster, namespace } = placeOf(path ?? EVERYTHING);
    const allowed = cluster === null ? reach.mayEverywhere('operate') : reach.may('operate', cluster, namespace);
    if (!allowed)
      throw new Refusal(
        'notAllowed',
        'You may not operate what this message speaks of. An administrator can grant it.',
      );
    if (!(await this.outbox.retry(id)))
      throw new Refusal('notFound', 'This message was sent already, or does not exist.');
    this.live.touch('rules');
  }
}
