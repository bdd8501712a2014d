import { Body, Controller, Delete, Get, HttpCode, Param, Patch, Post, Put } from '@nestjs/common';
import { RuleChange, type RulesAnswer, TeamInput } from '@zetopsis/contract';
import { z } from 'zod';
import { Administrators } from '../access/access.guard.ts';
import { Audited, named, numbered } from '../audit/action.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { DeliveryService } from '../delivery/delivery.service.ts';
import { InventoryService } from '../inventory/inventory.service.ts';
import { LiveService } from '../live/live.service.ts';
import { OwnersService } from '../owners/owners.service.ts';
import { Refusal } from '../platform/refusals.ts';
import { Clock } from '../platform/settings.ts';
import { AlertsService } from './alerts.service.ts';
import { RulesService } from './rules.service.ts';

const Id = z.coerce.number<string>().int().positive();
const HISTORY = 7 * 86_400_000;

@Controller('api')
export class RulesController {
  constructor(
    private readonly rules: RulesService,
    private readonly alerts: AlertsService,
    private readonly owners: OwnersService,
    private readonly delivery: DeliveryService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly live: LiveService,
    private readonly clock: Clock,
  ) {}

  @Get('rules')
  async all(): Promise<RulesAnswer> {
    const now = this.clock.now();
    const namespaces = this.connections.ids().flatMap((id) =>
      this.inventory
        .cluster(id)
        .list('namespace')
        .map(({ name }) => name),
    );
    const [rules, history, deliveries] = await Promise.all([
      this.rules.list(),
      this.alerts.within(now - HISTORY, now, 100),
      this.delivery.newest(),
    ]);
    return {
      rules,
      teams: this.owners.list(),
      unowned: [...new Set(namespaces)].filter((name) => this.owners.ownerOf(name) === null).sort(),
      history,
      deliveries,
      mail: this.delivery.configured,
    };
  }
  @Administrators()
  @Audited('change a rule', numbered)
  @Patch('rules/:id')
  @HttpCode(204)
  async change(@Param('id', { schema: Id }) id: number, @Body({ schema: RuleChange }) body: RuleChange): Promise<void> {
    await this.rules.change(id, body);
  }

  @Administrators()
  @Audited('add a team', named('name'))
  @Post('teams')
  addTeam(@Body({ schema: TeamInput }) body: TeamInput) {
    this.live.touch('rules');
    return this.owners.save(body);
  }
  @Administrators()
  @Audited('change a team', named('name'))
  @Put('teams/:id')
  changeTeam(@Param('id', { schema: Id }) id: number, @Body({ schema: TeamInput }) body: TeamInput) {
    this.live.touch('rules');
    return this.owners.save(body, id);
  }
  @Administrators()
  @Audited('remove a team', numbered)
  @Delete('teams/:id')
  @HttpCode(204)
  async removeTeam(@Param('id', { schema: Id }) id: number): Promise<void> {
    await this.owners.remove(id);
    this.live.touch('rules');
  }
  /** A marked test, so that an address is proven before it matters. */
  @Administrators()
  @Audited('send a test to a team', numbered)
  @Post('teams/:id/test')
  @HttpCode(204)
  async testTeam(@Param('id', { schema: Id }) id: number): Promise<void> {
    const team = this.owners.get(id);
    const text = `This is a test. Nothing is wrong. Messages for ${team.name} arrive at this address.`;
    await this.delivery.enqueueAlone({
      stableKey: `test-${team.id}-${this.clock.now()}`,
      alertId: null,
      recipient: team.email,
      subject: `Test: messages for ${team.name}`,
      text,
      html: `<p>${text.replace(/[<>&]/g, '')}</p>`,
    });
    this.live.touch('rules');
  }
  /** A dead letter is tried again. */
  @Administrators()
  @Audited('try a message again', numbered)
  @Post('deliveries/:id/retry')
  @HttpCode(204)
  async retry(@Param('id', { schema: Id }) id: number): Promise<void> {
    if (!(await this.delivery.retry(id)))
      throw new Refusal('notFound', 'This message was sent already, or does not exist.');
    this.live.touch('rules');
  }
}
