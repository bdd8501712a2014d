import { Injectable } from '@nestjs/common';
import type { SessionAnswer } from '@zetopsis/contract';

/** What the sign-in page shows in demo mode; null in every other mode. */
@Injectable()
export class DemoNotice {
  notice: SessionAnswer['demo'] = null;
}
