import { type CanActivate, type ExecutionContext, Injectable } from '@nestjs/common';
import { Reflector } from '@nestjs/core';
import type { Request, Response } from 'express';
import { actorOf } from '../../ground/audit/audit.interceptor.ts';
import { AuditService } from '../../ground/audit/audit.service.ts';
import { ACTION, type Action } from '../../ground/guard/action.ts';
import { ADMINISTRATORS, IN_PERSON, type KnownRequest, OPEN, STANDING, sessionOf } from '../../ground/guard/route.ts';
import { questionNow } from '../../ground/platform/question.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Settings } from '../../ground/platform/settings.ts';
import { Turns } from '../../ground/platform/turns.ts';
import { AccessService } from './access.service.ts';
import { GrantsService } from './grants.service.ts';
import { TokensService } from './tokens.service.ts';

const BEARER = /^Bearer (\S{1,200})$/;

/** The one check in front of every route: origin, session or token, reach. */
@Injectable()
export class AccessGuard implements CanActivate {
  constructor(
    private readonly reflector: Reflector,
    private readonly access: AccessService,
    private readonly tokens: TokensService,
    private readonly grants: GrantsService,
    private readonly audit: AuditService,
    private readonly settings: Settings,
    private readonly turns: Turns,
  ) {}

  async canActivate(context: ExecutionContext): Promise<boolean> {
    const request = context.switchToHttp().getRequest<KnownRequest>();
    const marked = (key: string) =>
      this.reflector.getAllAndOverride<boolean | undefined>(key, [context.getHandler(), context.getClass()]) === true;
    try {
      const admitted = await this.admit(request, marked);
      const question = questionNow();
      if (question && !marked(STANDING)) {
        const whose = request.person?.id ?? `stranger ${request.ip}`;
        question.whose = whose;
        context
          .switchToHttp()
          .getResponse<Response>()
          .once('close', await this.turns.take(whose, question));
      }
      return admitted;
    } catch (error) {
      const action = this.reflector.get<Action | undefined>(ACTION, context.getHandler());
      if (action && error instanceof Refusal) {
        // the body has not been checked yet: nothing of it is written down
        const entry = {
          ...actorOf(request),
          action: action.name,
          on: '',
          outcome: 'refused' as const,
          detail: error.message,
        };
        await (entry.by === 'stranger' ? this.audit.noteStranger(entry) : this.audit.note(entry));
      }
      throw error;
    }
  }

  private async admit(request: KnownRequest, marked: (key: string) => boolean): Promise<boolean> {
    const bearer = BEARER.exec(request.headers.authorization ?? '')?.[1];
    if (bearer === undefined) this.checkOrigin(request);
    if (marked(OPEN)) return true;
    await this.know(request, bearer);
    if (marked(ADMINISTRATORS) && !request.reach.mayEverywhere('administer'))
      throw new Refusal('notAllowed', 'Only an administrator may do this. Ask one of them.');
    if (marked(IN_PERSON) && request.token !== null)
      throw new Refusal('notAllowed', 'A token may not do this: sign in at the page.');
    return true;
  }

  /** Whether it is known who sends a request, before anything of its body is read. */
  async recognises(request: Request): Promise<boolean> {
    const bearer = BEARER.exec(request.headers.authorization ?? '')?.[1];
    if (bearer !== undefined) return (await this.tokens.find(bearer)) !== null;
    const secret = sessionOf(request);
    return secret !== '' && (await this.access.personOf(secret)) !== null;
  }

  private async know(request: KnownRequest, bearer: string | undefined): Promise<void> {
    if (bearer !== undefined) {
      const token = await this.tokens.find(bearer);
      if (!token) throw new Refusal('notSignedIn', 'This token is not known, or ran out. Make a new one under Admin.');
      request.person = { id: token.person.id, name: token.person.name, role: token.person.role };
      request.token = token.name;
      request.who = `${token.person.name}, by token ${token.name}`;
      request.reach = this.grants.reachOf(request.person).within([token.bound]);
      return;
    }
    const secret = sessionOf(request);
    const person = secret === '' ? null : await this.access.personOf(secret);
    if (!person) throw new Refusal('notSignedIn', 'Sign in first.');
    request.person = person;
    request.token = null;
    request.who = person.name;
    request.reach = this.grants.reachOf(person);
  }

  /** A page of another site may send requests with our cookie; a browser names that site in Origin. */
  private checkOrigin(request: Request): void {
    if (request.method === 'GET' || request.method === 'HEAD') return;
    const { origin, host } = request.headers;
    if (origin === undefined) {
      if (request.headers['sec-fetch-site'] === undefined || request.headers['sec-fetch-site'] === 'same-origin')
        return;
    } else if (
      origin === new URL(this.settings.config.publicUrl).origin ||
      origin === `http://${host}` ||
      origin === `https://${host}`
    )
      return;
    throw new Refusal(
      'notAllowed',
      'This request comes from another site’s page and is refused. Use Zetopsis’ own page.',
    );
  }
}
