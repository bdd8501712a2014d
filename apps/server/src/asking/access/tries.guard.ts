import { type ExecutionContext, Injectable, SetMetadata } from '@nestjs/common';
import { ThrottlerGuard, type ThrottlerModuleOptions } from '@nestjs/throttler';

const TRIES = 'tries';
/** Guessing a password or the first code is slowed down, by address. */
export const Tries = () => SetMetadata(TRIES, true);

/** Far more than one person's pages ask for; stops a runaway script. */
const REQUESTS_A_MINUTE = 1800;
const TRIES_A_MINUTE = 40;
const MINUTE = 60_000;

export const LIMITS_BY_ADDRESS: ThrottlerModuleOptions = [
  { name: 'all', ttl: MINUTE, limit: REQUESTS_A_MINUTE },
  {
    name: 'tries',
    ttl: MINUTE,
    limit: TRIES_A_MINUTE,
    skipIf: (context) => Reflect.getMetadata(TRIES, context.getHandler()) !== true,
  },
];

/** Limits by address count all routes together: else each new route is another chance. */
@Injectable()
export class AddressLimits extends ThrottlerGuard {
  protected override generateKey(_context: ExecutionContext, address: string, name: string): string {
    return `${name} ${address}`;
  }
}
