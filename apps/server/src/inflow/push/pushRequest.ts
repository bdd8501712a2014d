import type { PushDocument } from '@zetopsis/contract';
import type { Request } from 'express';

/** Whose push it is. */
export interface PushedBy {
  readonly key: string;
  readonly document: PushDocument;
}
export interface PushRequest extends Request {
  /** Said by who let it in. */
  pushedBy?: PushedBy;
}
