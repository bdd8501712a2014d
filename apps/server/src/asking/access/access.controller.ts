import { Body, Controller, Delete, Get, HttpCode, Post, Req, Res } from '@nestjs/common';
import { FirstPerson, type Person, type SessionAnswer, SignIn } from '@zetopsis/contract';
import { DAY } from '@zetopsis/core/units';
import type { CookieOptions, Request, Response } from 'express';
import { Audited, named } from '../../ground/guard/action.ts';
import { COOKIE, InPerson, Open, sessionOf } from '../../ground/guard/route.ts';
import { DemoNotice } from '../../ground/platform/demoNotice.ts';
import { Settings } from '../../ground/platform/settings.ts';
import { AccessService, SESSION_LIFE } from './access.service.ts';
import { GrantsService } from './grants.service.ts';
import { Tries } from './tries.guard.ts';

/** Tells a browser that has signed in before from a stranger's; proves nothing else. */
const BROWSER = 'zetopsis_browser';
const BROWSER_LIFE = 365 * DAY;

/** A name that nobody has is not written down: people type passwords into the wrong field. */
interface SignInRequest extends Request {
  knownName?: string;
  person?: Person;
}
const knownName = (request: SignInRequest): string => request.knownName ?? '';

@Controller('api')
export class AccessController {
  constructor(
    private readonly access: AccessService,
    private readonly grants: GrantsService,
    private readonly settings: Settings,
    private readonly demo: DemoNotice,
  ) {}

  private get cookieOptions(): CookieOptions {
    return { httpOnly: true, sameSite: 'lax', secure: this.settings.config.publicUrl.startsWith('https:'), path: '/' };
  }

  @Open()
  @Get('session')
  async session(@Req() request: Request): Promise<SessionAnswer> {
    const person = await this.access.personOf(sessionOf(request));
    return {
      person,
      firstStart: await this.access.nobodyYet(),
      demo: this.demo.notice,
      zone: this.settings.config.zone,
      teams: person ? this.grants.teamsOf(person) : [],
      permits: person ? [...this.grants.reachOf(person).permits] : [],
      administrators: person ? await this.access.administrators() : [],
    };
  }

  @Open()
  @Audited('sign in', knownName)
  @Tries()
  @Post('session')
  @HttpCode(200)
  async signIn(
    @Body({ schema: SignIn }) body: SignIn,
    @Req() request: SignInRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Person> {
    if (await this.access.knows(body.name)) request.knownName = body.name;
    const given: unknown = (request.cookies as Record<string, unknown>)[BROWSER];
    const { person, secret, mark } = await this.access.signIn(body, typeof given === 'string' ? given : '');
    request.person = person;
    response.cookie(COOKIE, secret, { ...this.cookieOptions, maxAge: SESSION_LIFE });
    response.cookie(BROWSER, mark, { ...this.cookieOptions, maxAge: BROWSER_LIFE });
    return person;
  }

  @InPerson()
  @Audited('sign out')
  @Delete('session')
  @HttpCode(204)
  async signOut(@Req() request: Request, @Res({ passthrough: true }) response: Response): Promise<void> {
    await this.access.signOut(sessionOf(request));
    response.clearCookie(COOKIE, this.cookieOptions);
  }

  @Open()
  @Audited('make the first administrator', named('name'))
  @Tries()
  @Post('first-person')
  async first(
    @Body({ schema: FirstPerson }) body: FirstPerson,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Person> {
    const person = await this.access.makeFirst(body);
    response.cookie(COOKIE, await this.access.openSession(person.id), { ...this.cookieOptions, maxAge: SESSION_LIFE });
    return person;
  }
}
