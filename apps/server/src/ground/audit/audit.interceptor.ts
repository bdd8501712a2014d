import { type CallHandler, type ExecutionContext, Injectable, type NestInterceptor } from '@nestjs/common';
import { Reflector } from '@nestjs/core';
import type { Person } from '@zetopsis/contract';
import type { Request } from 'express';
import { catchError, concatMap, from, map, type Observable, throwError } from 'rxjs';
import { ACTION, type Action } from '../guard/action.ts';
import { Refusal } from '../platform/refusals.ts';
import { AuditService } from './audit.service.ts';

interface Asker {
  readonly person?: Person;
  readonly token?: string | null;
  readonly who?: string;
}

/** Notes what came of every route that changes something. What a guard refuses is noted by the guard. */
@Injectable()
export class AuditInterceptor implements NestInterceptor {
  constructor(
    private readonly reflector: Reflector,
    private readonly audit: AuditService,
  ) {}

  intercept(context: ExecutionContext, next: CallHandler): Observable<unknown> {
    const action = this.reflector.get<Action | undefined>(ACTION, context.getHandler());
    if (!action) return next.handle();
    const request = context.switchToHttp().getRequest<Request & Asker>();
    return next.handle().pipe(
      concatMap((answer: unknown) =>
        from(this.note({ request, action, outcome: 'done', detail: '' })).pipe(map(() => answer)),
      ),
      catchError((error: unknown) => {
        const refused = error instanceof Refusal;
        const detail = refused ? error.message : 'something unforeseen; the server’s log says what';
        return from(this.note({ request, action, outcome: refused ? 'refused' : 'failed', detail })).pipe(
          concatMap(() => throwError(() => error)),
        );
      }),
    );
  }

  private note({
    request,
    action,
    outcome,
    detail,
  }: {
    readonly request: Request & Asker;
    readonly action: Action;
    readonly outcome: 'done' | 'refused' | 'failed';
    readonly detail: string;
  }): Promise<void> {
    const entry = { ...actorOf(request), action: action.name, on: action.on(request), outcome, detail };
    return entry.by === 'stranger' && outcome !== 'done' ? this.audit.noteStranger(entry) : this.audit.note(entry);
  }
}

export function actorOf(request: Request & Asker): {
  by: 'person' | 'token' | 'stranger';
  who: string;
  from: string;
} {
  const address = request.ip ?? '';
  return request.person
    ? { by: request.token ? 'token' : 'person', who: request.who ?? request.person.name, from: address }
    : { by: 'stranger', who: 'a stranger', from: address };
}
