import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Req, Res } from '@nestjs/common';
import { type NewPushToken, PushDocument, type PushKeysAnswer, SourceKey } from '@zetopsis/contract';
import { formOf } from '@zetopsis/core/exposition';
import { readMetricsBySteps } from '@zetopsis/core/telemetry';
import type { Response } from 'express';
import protobuf from 'protobufjs';
import { z } from 'zod';
import { Audited, keyed } from '../../ground/guard/action.ts';
import { Administrators, type KnownRequest, Open } from '../../ground/guard/route.ts';
import { yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { decodeRequest } from './decodeRequest.ts';
import { PushService } from './push.service.ts';
import type { PushRequest } from './pushRequest.ts';
import { answerOf, BINARY_TYPE, METRICS_PATH, METRICS_SCHEMA } from './wire-names.ts';

const schema = protobuf.Root.fromJSON(METRICS_SCHEMA as unknown as protobuf.INamespace); // read only
const MetricsAnswer = schema.lookupType('Answer');
const Sender = z
  .string()
  .trim()
  .min(1)
  .max(120)
  .regex(/^[\w.:/ -]+$/, 'a sender is named by letters, digits, dots, dashes and blanks');

/** Keys for pushing, and what is pushed with them. */
@Controller('api')
export class PushController {
  constructor(private readonly push: PushService) {}

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
  @Audited('remove a push key', keyed)
  @Delete('push-keys/:key')
  @HttpCode(204)
  remove(@Param('key', { schema: SourceKey }) key: string, @Req() { who }: KnownRequest): Promise<void> {
    return this.push.remove(who, key);
  }

  /** The open telemetry protocol over HTTP, binary or JSON. The key is checked before the body is looked at. */
  @Open()
  @Post(`push/${METRICS_PATH}`)
  @HttpCode(200)
  async metrics(@Req() request: PushRequest, @Res() response: Response): Promise<void> {
    const { key } = request.pushedBy!; // nobody else comes so far
    const binary = request.is(BINARY_TYPE) !== false;
    if (!binary && request.is('json') === false)
      throw new Refusal('invalid', `Metrics are pushed as ${BINARY_TYPE} or as application/json.`);
    const body: unknown = binary ? await decoded(request.body) : request.body;
    const pushed = await yieldedInPieces(readMetricsBySteps(body));
    let { refused, problem } = pushed;
    for (const resource of pushed.resources) {
      const left = await this.push.takeResource(key, resource);
      refused += left.refused;
      problem ??= left.problem;
    }
    this.push.noteRefused(key, refused, problem);
    const answer = answerOf(refused, problem);
    if (binary)
      response.type(BINARY_TYPE).send(Buffer.from(MetricsAnswer.encode(MetricsAnswer.fromObject(answer)).finish()));
    else response.json(answer);
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
    this.push.noteRefused(key, answer.problems, answer.problems > 0 ? 'lines of a page were not understood' : null);
    return answer;
  }
}

async function decoded(body: unknown): Promise<unknown> {
  if (!Buffer.isBuffer(body)) return {};
  try {
    return await yieldedInPieces(decodeRequest(body));
  } catch {
    throw new Refusal('invalid', 'This is no metrics request of the open telemetry protocol.');
  }
}
