import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Req } from '@nestjs/common';
import { DocumentKey, TeamDocument, type TeamsAnswer } from '@zetopsis/contract';
import { Audited, keyed, named } from '../../ground/guard/action.ts';
import { Administrators, type KnownRequest } from '../../ground/guard/route.ts';
import { LiveService } from '../../ground/live/live.service.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { OutboxService } from '../../keeping/outbox/outbox.service.ts';
import { OwnersService } from './owners.service.ts';

@Administrators()
@Controller('api/admin/teams')
export class TeamsController {
  constructor(
    private readonly owners: OwnersService,
    private readonly outbox: OutboxService,
    private readonly live: LiveService,
    private readonly clock: Clock,
  ) {}

  @Get()
  list(): TeamsAnswer {
    return this.owners.answer();
  }
  @Audited('add a team', named('name'))
  @Post()
  @HttpCode(204)
  add(@Body({ schema: TeamDocument }) body: TeamDocument, @Req() request: KnownRequest): Promise<void> {
    return this.owners.add(request.who, body);
  }
  @Audited('change a team', named('name'))
  @Put(':key')
  @HttpCode(204)
  change(
    @Param('key', { schema: DocumentKey }) key: string,
    @Body({ schema: TeamDocument }) body: TeamDocument,
    @Req() request: KnownRequest,
  ): Promise<void> {
    return this.owners.change(request.who, key, body);
  }
  @Audited('remove a team', keyed)
  @Delete(':key')
  @HttpCode(204)
  remove(@Param('key', { schema: DocumentKey }) key: string, @Req() request: KnownRequest): Promise<void> {
    return this.owners.remove(request.who, key);
  }
  /** A marked test, so that an address is proven before it matters. */
  @Audited('send a test to a team', keyed)
  @Post(':key/test')
  @HttpCode(204)
  async test(@Param('key', { schema: DocumentKey }) key: string): Promise<void> {
    const team = this.owners.get(key);
    const text = `This is a test. Nothing is wrong. Messages for ${team.name} arrive at this address.`;
    await this.outbox.enqueueAlone({
      channel: null,
      stableKey: `test-${team.key}-${this.clock.now()}`,
      alertId: null,
      recipient: team.email,
      subject: `Test: messages for ${team.name}`,
      text,
      html: `<p>${text.replace(/[<>&]/g, '')}</p>`,
    });
    this.live.touch('rules');
  }
}
