import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Req, Res } from '@nestjs/common';
import { type NewPushToken, PushDocument, type PushKeysAnswer, SourceKey } from '@zetopsis/contract';
import { formOf } from '@zetopsis/core/exposition';
import type { Response } from 'express';
import { z } from 'zod';
import { Audited, keyed } from '../../ground/guard/action.ts';
import { Administrators, type KnownRequest, Open } from '../../ground/guard/route.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { answerOf, encodeAnswer } from './decodeRequest.ts';
import { PushService } from './push.service.ts';
import { PushCounts } from './pushCounts.ts';
import type { PushRequest } from './pushRequest.ts';
import { PushTaking } from './pushTaking.service.ts';
import { BINARY_TYPE, SIGNALS, type Signal } from './wire-names.ts';

const Sender = z
  .string()
  .trim()
  .min(1)
  .max(120)
  .regex(/^[\w.:/ -]+$/, 'a sender is named by letters, digits, dots, dashes and blanks');

/** Keys for pushing, and what is pushed with them. */
@Controller('api')
export class PushController {
  constructor(
    private readonly push: PushService,
    private readonly counts: PushCounts,
    private readonly taking: PushTaking,
  ) {}

  @Administrators()
  @Get('push-keys')
  list(): PushKeysAnswer {
    return this.push.list();
  }
  @Administrators()
  @Audited('make or change a push key', keyed)
  @Put('push-keys/:key')
  async save(
    @Param('key', { schema: SourceKey }) key: string,
    @Body({ schema: PushDocument }) document: PushDocument,
    @Req() { who }: KnownRequest,
  ): Promise<{ made: NewPushToken | null }> {
    return { made: await this.push.save(who, key, document) };
  }
  @Administrators()
  @Audited('make a new token of a push key', keyed)
  @Post('push-keys/:key/token')
  newToken(@Param('key', { schema: SourceKey }) key: string): Promise<NewPushToken> {
    return this.push.newToken(key);
  }
  @Administrators()
  @Audited('end the token before of a push key', keyed)
  @Delete('push-keys/:key/token-before')
  @HttpCode(204)
  endBefore(@Param('key', { schema: SourceKey }) key: string): Promise<void> {
    return this.push.endBefore(key);
  }
  @Administrators()
  @Audited('remove a push key', keyed)
  @Delete('push-keys/:key')
  @HttpCode(204)
  remove(@Param('key', { schema: SourceKey }) key: string, @Req() { who }: KnownRequest): Promise<void> {
    return this.push.remove(who, key);
  }

  /** The open telemetry protocol over HTTP, binary or JSON. The key is checked before the body is looked at. */
  @Open()
  @Post(`push/${SIGNALS.metrics.path}`)
  @HttpCode(200)
  metrics(@Req() request: PushRequest, @Res() response: Response): Promise<void> {
    return this.take('metrics', request, response);
  }
  @Open()
  @Post(`push/${SIGNALS.logs.path}`)
  @HttpCode(200)
  logs(@Req() request: PushRequest, @Res() response: Response): Promise<void> {
    return this.take('logs', request, response);
  }
  @Open()
  @Post(`push/${SIGNALS.traces.path}`)
  @HttpCode(200)
  traces(@Req() request: PushRequest, @Res() response: Response): Promise<void> {
    return this.take('traces', request, response);
  }
  private async take(signal: Signal, request: PushRequest, response: Response): Promise<void> {
    const by = request.pushedBy!; // nobody else comes so far
    const bytes = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0);
    if (request.is(BINARY_TYPE) !== false) {
      const { refused, problem } = await this.taking.takeBinary(signal, by, bytes);
      response.type(BINARY_TYPE).send(encodeAnswer(refused, problem));
      return;
    }
    // without a body there is no type
    if (request.is('json') === false)
      throw new Refusal('invalid', `This is pushed as ${BINARY_TYPE} or as application/json.`);
    const { refused, problem } = await this.taking.takeJson(signal, by, bytes);
    response.json(answerOf(signal, refused, problem));
  }

  /** A metrics page as text, for scripts: the sender is named in the path. */
  @Open()
  @Post('push/page/:sender')
  @HttpCode(200)
  async page(
    @Param('sender', { schema: Sender }) sender: string,
    @Req() request: PushRequest,
  ): Promise<{ samples: number; problems: number }> {
    const { key } = request.pushedBy!; // nobody else comes so far
    if (!Buffer.isBuffer(request.body))
      throw new Refusal('invalid', 'A page is pushed as text/plain or as application/openmetrics-text, and not empty.');
    const answer = await this.push.takePage({
      key,
      sender,
      bytes: request.body,
      form: formOf(request.headers['content-type'] ?? ''),
    });
    this.counts.pushed(key, answer.problems, answer.problems > 0 ? 'lines of a page were not understood' : null);
    return answer;
  }
}
