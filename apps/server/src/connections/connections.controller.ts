import { Body, Controller, Delete, Get, HttpCode, Param, Patch, Post, Req } from '@nestjs/common';
import { ConnectionChange, ConnectionInput, trimmedBlanks } from '@zetopsis/contract';
import type { Request } from 'express';
import { z } from 'zod';
import { Administrators } from '../access/access.guard.ts';
import { Audited, named, numbered } from '../audit/action.ts';
import { ConnectionsService } from './connections.service.ts';

const TestInput = ConnectionInput.omit({ name: true, token: true })
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
  list() {
    return this.connections.list();
  }
  @Administrators()
  @Audited('connect a cluster', named('name'))
  @Post()
  add(@Body({ schema: ConnectionInput }) body: ConnectionInput) {
    return this.connections.add(body);
  }
  @Administrators()
  @Audited('test a connection', named('address'))
  @Post('test')
  @HttpCode(200)
  test(@Body({ schema: TestInput }) body: z.infer<typeof TestInput>, @Req() request: Request) {
    return this.connections.test(body, trimmedBlanks(rawBody(request)), body.connectionId);
  }
  @Administrators()
  @Audited('change a connection', numbered)
  @Patch(':id')
  change(@Param('id', { schema: Id }) id: string, @Body({ schema: ConnectionChange }) body: ConnectionChange) {
    return this.connections.change(id, body);
  }
  @Administrators()
  @Audited('remove a cluster', numbered)
  @Delete(':id')
  @HttpCode(204)
  remove(@Param('id', { schema: Id }) id: string) {
    return this.connections.remove(id);
  }
}
