import { type CallHandler, type ExecutionContext, Injectable, type NestInterceptor } from '@nestjs/common';
import type { Request } from 'express';
import { finalize, type Observable } from 'rxjs';
import { Durations, OwnFigures } from './ownFigures.ts';

/** Live news goes on as long as somebody listens. */
const ENDLESS = new Set(['/api/live']);

/** Notes how long each route took to answer. */
@Injectable()
export class RouteTimes implements NestInterceptor {
  private readonly times = new Durations('request_duration', 'How long requests to the API took, by route.');
  constructor(figures: OwnFigures) {
    figures.onAsked(() => [this.times.family]);
  }
  intercept(context: ExecutionContext, next: CallHandler): Observable<unknown> {
    if (context.getType() !== 'http') return next.handle();
    const { method, route } = context.switchToHttp().getRequest<Request>();
    const path: unknown = route?.path;
    if (typeof path !== 'string' || ENDLESS.has(path)) return next.handle();
    const began = performance.now();
    return next
      .handle()
      .pipe(finalize(() => this.times.note({ method, route: path }, (performance.now() - began) / 1000)));
  }
}
