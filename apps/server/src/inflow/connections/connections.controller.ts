import { Body, Controller, Delete, Get, HttpCode, Param, Patch, Post, Req } from '@nestjs/common';
import { ConnectionChange, ConnectionInput, trimmedBlanks } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import type { Request } from 'express';
import { z } from 'zod';
import { Audited, named, numbered } from '../../ground/guard/action.ts';
import { Seen } from '../../ground/guard/reached.ts';
import { Administrators, type KnownRequest } from '../../ground/guard/route.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { ConnectionsService } from './connections.service.ts';

const TestInput = ConnectionInput.pick({ address: true, authority: true, nodePage: true })
  .extend({ token: ConnectionChange.shape.token, connectionId: z.uuid().optional() })
  .refine(({ token, connectionId }) => token !== '' || connectionId !== undefined, {
    message: 'the token is missing',
    path: ['token'],
  });
const Id = z.uuid();

/** The body before the schema trimmed it, to say which fields held blanks. */
const rawBody = (request: Request): Record<string, unknown> => {
  const body: unknown = request.body;
  return typeof body === 'object' && body !== null ? (body as Record<string, unknown>) : {}; // checked here
};

@Controller('api/connections')
export class ConnectionsController {
  constructor(private readonly connections: ConnectionsService) {}

  @Get()
  list(@Seen() reach: Reach) {
    return this.connections.list(reach);
  }
  @Administrators()
  @Audited('connect a cluster', named('name'))
  @Post()
  add(@Body({ schema: ConnectionInput }) body: ConnectionInput, @Seen() reach: Reach, @Req() request: KnownRequest) {
    return this.connections.add(reach, request.who, body);
  }
  /** Trying a stored token needs administering that cluster; trying a new one needs administering somewhere. */
  @Audited('test a connection', named('address'))
  @Post('test')
  @HttpCode(200)
  test(@Body({ schema: TestInput }) body: z.infer<typeof TestInput>, @Seen() reach: Reach, @Req() request: Request) {
    if (!reach.permits.some(({ level, namespace }) => level === 'administer' && namespace === null))
      throw new Refusal('notAllowed', 'Only somebody who administers a cluster may test connections.');
    return this.connections.test({
      reach,
      input: body,
      trimmed: trimmedBlanks(rawBody(request)),
      storedFor: body.connectionId,
    });
  }
  @Audited('change a connection', numbered)
  @Patch(':id')
  change(
    @Param('id', { schema: Id }) id: string,
    @Body({ schema: ConnectionChange }) body: ConnectionChange,
    @Seen() reach: Reach,
    @Req() request: KnownRequest,
  ) {
    return this.connections.change({ reach, by: request.who, id, connectionChange: body });
  }
  @Audited('remove a cluster', numbered)
  @Delete(':id')
  @HttpCode(204)
  remove(@Param('id', { schema: Id }) id: string, @Seen() reach: Reach, @Req() request: KnownRequest) {
    return this.connections.remove(reach, request.who, id);
  }
}
