import { createParamDecorator, type ExecutionContext } from '@nestjs/common';
import type { Reach } from '@zetopsis/core/access';
import type { KnownRequest } from './route.ts';

/** What the person or token asking may see and do; `whose=mine` looks only at what the own teams own. */
export const Seen = createParamDecorator((_: unknown, context: ExecutionContext): Reach => {
  const request = context.switchToHttp().getRequest<KnownRequest>();
  return request.query['whose'] === 'mine' ? request.reach.mine() : request.reach;
});
