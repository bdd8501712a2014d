import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Query, Req } from '@nestjs/common';
import {
  type DeliveriesAnswer,
  DeliveriesQuery,
  DocumentKey,
  EVERYTHING,
  type LateAnswer,
  type NoiseAnswer,
  placeOf,
  type QuieterAnswer,
  type RehearsalAnswer,
  RehearsalId,
  RehearsalInput,
  type RehearsalProgress,
  RowNumber,
  RuleDocument,
  type RuleSheet,
  type RulesAnswer,
  readPath,
  StricterInput,
  TakeInput,
} from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { KeptForTeams } from '../../asking/owners/keptForTeams.service.ts';
import { OwnersService } from '../../asking/owners/owners.service.ts';
import { Audited, keyed, named, numbered } from '../../ground/guard/action.ts';
import { Seen } from '../../ground/guard/reached.ts';
import { InPerson, type KnownRequest } from '../../ground/guard/route.ts';
import { LiveService } from '../../ground/live/live.service.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { AlertsService } from '../../keeping/alerts/alerts.service.ts';
import { OutboxService } from '../../keeping/outbox/outbox.service.ts';
import { DeliveryService } from '../delivery/delivery.service.ts';
import { KeptRules } from './keptRules.service.ts';
import { NoiseReport } from './noise.service.ts';
import { Rehearsals } from './rehearsal.service.ts';

const HISTORY = 7 * 86_400_000;

@Controller('api')
export class RulesController {
  constructor(
    private readonly kept: KeptRules,
    private readonly forTeams: KeptForTeams,
    private readonly rehearsals: Rehearsals,
    private readonly noiseReport: NoiseReport,
    private readonly alerts: AlertsService,
    private readonly owners: OwnersService,
    private readonly delivery: DeliveryService,
    private readonly outbox: OutboxService,
    private readonly live: LiveService,
    private readonly clock: Clock,
  ) {}

  @Get('rules')
  async all(@Req() { reach, person }: KnownRequest): Promise<RulesAnswer> {
    const now = this.clock.now();
    const everything = reach.mayEverywhere('read');
    const [rules, history] = await Promise.all([
      this.kept.list({ reach, person }),
      this.alerts.within({ reach, from: now - HISTORY, to: now, limit: 100 }),
    ]);
    return {
      rules: rules.map((rule) => (rule.matched === null ? { ...rule, ...seenOf(rule.key, history) } : rule)),
      ...this.forTeams.writableBy({ reach, person }),
      unowned: everything ? [...new Set(this.owners.unowned().map(({ namespace }) => namespace))] : [],
      history,
      deliveries: await this.outbox.newest(everything ? null : history.map(({ id }) => id)),
      mail: this.delivery.configured,
    };
  }
  @InPerson()
  @Audited('add a rule', named('name'))
  @Post('rules')
  async add(
    @Body({ schema: RuleDocument }) document: RuleDocument,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<{ key: string }> {
    return { key: await this.kept.add({ reach, person }, who, document) };
  }
  /** Looks only: nothing is kept of it. */
  @Post('rules/rehearse')
  @HttpCode(200)
  rehearse(
    @Body({ schema: RehearsalInput }) input: RehearsalInput,
    @Req() { reach, person }: KnownRequest,
  ): Promise<RehearsalAnswer> {
    return this.rehearsals.asked({ reach, person }, input);
  }
  /** How far a rehearsal is that whoever asks is waiting for. */
  @Get('rules/rehearsals/:id')
  progress(@Param('id', { schema: RehearsalId }) id: string, @Req() { person }: KnownRequest): RehearsalProgress {
    return this.rehearsals.progressOf(person.name, id);
  }
  @Get('noise')
  noise(@Req() { reach, person }: KnownRequest): Promise<NoiseAnswer> {
    return this.noiseReport.of({ reach, person });
  }
  @Get('rules/:key/quieter')
  quieter(
    @Param('key', { schema: DocumentKey }) key: string,
    @Req() { reach, person }: KnownRequest,
  ): Promise<QuieterAnswer> {
    return this.noiseReport.quieter({ reach, person }, key);
  }
  @Get('rules/:key')
  sheet(
    @Param('key', { schema: DocumentKey }) key: string,
    @Req() { reach, person }: KnownRequest,
  ): Promise<RuleSheet> {
    return this.kept.sheet({ reach, person }, key);
  }
  @InPerson()
  @Audited('change a rule', keyed)
  @Put('rules/:key')
  @HttpCode(204)
  save(
    @Param('key', { schema: DocumentKey }) key: string,
    @Body({ schema: RuleDocument }) document: RuleDocument,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<void> {
    return this.kept.save({ reach, person }, who, key, document);
  }
  @InPerson()
  @Audited('remove a rule', keyed)
  @Delete('rules/:key')
  @HttpCode(204)
  remove(
    @Param('key', { schema: DocumentKey }) key: string,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<void> {
    return this.kept.remove({ reach, person }, who, key);
  }
  @InPerson()
  @Audited('make a rule stricter for a team', keyed)
  @Put('rules/:key/stricter')
  @HttpCode(204)
  stricter(
    @Param('key', { schema: DocumentKey }) key: string,
    @Body({ schema: StricterInput }) input: StricterInput,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<void> {
    return this.kept.makeStricter({ reach, person }, who, key, input);
  }
  /** What came too late to be judged, as far as it would have changed anything. */
  @Get('rules/:key/late')
  late(
    @Param('key', { schema: DocumentKey }) key: string,
    @Req() { reach, person }: KnownRequest,
  ): Promise<LateAnswer> {
    return this.rehearsals.late({ reach, person }, key);
  }
  @InPerson()
  @Audited('judge a rule now', keyed)
  @Post('rules/:key/judge')
  @HttpCode(204)
  judge(@Param('key', { schema: DocumentKey }) key: string, @Req() { reach, person }: KnownRequest): Promise<void> {
    return this.kept.judgeNow({ reach, person }, key);
  }

  /** Somebody looks after it, or does not any more. */
  @InPerson()
  @Audited('take an alert', numbered)
  @Post('alerts/:id/take')
  @HttpCode(204)
  async take(
    @Param('id', { schema: RowNumber }) id: number,
    @Body({ schema: TakeInput }) { note }: TakeInput,
    @Req() { reach, who }: KnownRequest,
  ): Promise<void> {
    await this.alerts.take(reach, id, note === null ? null : { by: who, at: this.clock.now(), note });
    this.live.touch('alerts');
  }

  /** What was told to whom, and what became of it. */
  @Get('deliveries')
  deliveries(
    @Query({ schema: DeliveriesQuery }) { text, state, before }: DeliveriesQuery,
    @Req() { reach }: KnownRequest,
  ): Promise<DeliveriesAnswer> {
    const everything = reach.mayEverywhere('read');
    return this.outbox.search({ text, state: state ?? null, before: before ?? null }, (path) =>
      path === null ? everything : reach.sees(placeOf(readPath(path) ?? EVERYTHING)),
    );
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

/** What somebody who sees only a part may know of a rule: what it raised there. */
function seenOf(key: string, history: RulesAnswer['history']) {
  const own = history.filter(({ ruleKey }) => ruleKey === key);
  const open = own.filter(({ endedAt }) => endedAt === null);
  return {
    raised: open.length,
    worst: open.find(({ severity }) => severity === 'critical')?.severity ?? open[0]?.severity ?? null,
    lastRaisedAt: own.length === 0 ? null : Math.max(...own.map(({ raisedAt }) => raisedAt)),
  };
}
