import { Controller, Get, Req, Res } from '@nestjs/common';
import type { Response } from 'express';
import { COOKIE, InPerson, type KnownRequest, Standing } from '../../ground/guard/route.ts';
import { LiveService } from '../../ground/live/live.service.ts';
import { AccessService } from '../access/access.service.ts';

const BEAT = 15_000;

@Controller('api/live')
export class NewsController {
  constructor(
    private readonly live: LiveService,
    private readonly access: AccessService,
  ) {}

  /** Server-sent events: which topics changed. A session that ends closes its stream within one beat. */
  @InPerson()
  @Standing()
  @Get()
  open(@Req() request: KnownRequest, @Res() response: Response): void {
    response.writeHead(200, {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store',
      'x-accel-buffering': 'no',
    });
    response.write(': open\n\n');
    const stop = this.live.listen((topics, at) => response.write(`data: ${JSON.stringify({ topics, at })}\n\n`));
    const secret = String((request.cookies as Record<string, unknown>)[COOKIE]);
    const beat = setInterval(() => {
      this.access.personOf(secret).then(
        (person) => (person ? response.write(': beat\n\n') : response.end()),
        () => response.write(': beat\n\n'), // the database is away: the session is checked at the next beat
      );
    }, BEAT);
    response.on('close', () => {
      stop();
      clearInterval(beat);
    });
  }
}
