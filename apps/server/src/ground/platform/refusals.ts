import { type ArgumentsHost, Catch, type ExceptionFilter, HttpException } from '@nestjs/common';
import type { StandardSchemaV1 } from '@standard-schema/spec';
import type { Problem } from '@zetopsis/contract';
import type { Response } from 'express';
import { AskerLeft } from './askerLeft.ts';
import { databaseProblem, isAway } from './databaseProblem.ts';
import { ServerLog } from './logger.ts';

type RefusalCode =
  | 'invalid'
  | 'notSignedIn'
  | 'notAllowed'
  | 'notFound'
  | 'conflict'
  | 'tooLarge'
  | 'tooMany'
  | 'gone'
  | 'unavailable';
const STATUS: Record<RefusalCode, number> = {
  invalid: 400,
  notSignedIn: 401,
  notAllowed: 403,
  notFound: 404,
  conflict: 409,
  gone: 410,
  tooLarge: 413,
  tooMany: 429,
  unavailable: 503,
};

/** A request that is answered with a sentence a person understands. */
export class Refusal extends Error {
  constructor(
    readonly code: RefusalCode,
    text: string,
    readonly fields: { path: string; text: string }[] = [],
    /** Seconds after which it may be tried again. */
    readonly retryAfter: number | null = null,
    /** When there was something to look at, in ms; where there is nothing now. */
    readonly seenAt: number | null = null,
  ) {
    super(text);
  }
}

/** What a schema found, as the answer that names the fields. */
export function schemaRefusal(issues: readonly StandardSchemaV1.Issue[]): Refusal {
  const fields = issues.slice(0, 50).map((issue) => ({
    path: (issue.path ?? []).map((part) => String(typeof part === 'object' ? part.key : part)).join('.'),
    text: issue.message,
  }));
  const [first] = fields;
  return new Refusal(
    'invalid',
    first ? `${first.path === '' ? '' : `${first.path}: `}${first.text}` : 'The request is not understood.',
    fields,
  );
}

/** The one place where errors become answers. Anything unforeseen is logged and answered without its insides. */
@Catch()
export class RefusalFilter implements ExceptionFilter {
  constructor(private readonly log: ServerLog) {}

  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>();
    if (response.headersSent || error instanceof AskerLeft) {
      response.end();
      return;
    }
    const [status, problem] = this.problem(error);
    if (error instanceof Refusal && error.retryAfter !== null)
      response.setHeader('retry-after', String(error.retryAfter));
    response.status(status).json(problem);
  }

  private problem(error: unknown): [number, Problem] {
    if (error instanceof Refusal)
      return [
        STATUS[error.code],
        {
          code: error.code,
          text: error.message,
          fields: error.fields,
          ...(error.seenAt === null ? {} : { seenAt: error.seenAt }),
        },
      ];
    if (error instanceof HttpException) {
      const status = error.getStatus();
      if (status === 429)
        return [
          429,
          { code: 'tooMany', text: 'Too many tries in a short time: wait a minute and try again.', fields: [] },
        ];
      if (status === 404) return [404, { code: 'notFound', text: 'There is nothing at this address.', fields: [] }];
      return [status, { code: 'refused', text: error.message, fields: [] }];
    }
    if (isBodyError(error))
      return [
        error.status,
        { code: 'invalid', text: 'The request’s body cannot be read: send JSON of a sensible size.', fields: [] },
      ];
    const known = whatTheDatabaseRefused(error);
    if (known) return [STATUS[known.code], { code: known.code, text: known.message, fields: known.fields }];
    if (isAway(error))
      return [
        STATUS.unavailable,
        {
          code: 'unavailable',
          text: `Zetopsis’ own database does not answer: ${databaseProblem(error)}. Try again once it does.`,
          fields: [],
        },
      ];
    this.log.failure('unforeseen', error);
    return [
      500,
      {
        code: 'unforeseen',
        text: 'Something unforeseen went wrong; the server’s log says what. Try again.',
        fields: [],
      },
    ];
  }
}

/** What is refused by a constraint, when two did the same at once, or by what a text or a number may be. */
function whatTheDatabaseRefused(error: unknown): Refusal | null {
  const code = String((error as { code?: unknown } | null)?.code ?? '');
  if (code === '23505')
    return new Refusal('conflict', 'Somebody made one of this name at the same moment. Look at it, then try again.');
  if (code === '23503')
    return new Refusal('conflict', 'What this belongs to was removed at the same moment. Look again, then try again.');
  if (code === '22021' || code === '22P05')
    return new Refusal('invalid', 'The request holds a character that cannot be kept, such as NUL. Leave it out.');
  if (code === '22003') return new Refusal('invalid', 'A number in the request is too large.');
  return null;
}

/** What express' body parser throws. */
function isBodyError(error: unknown): error is { status: number } {
  return (
    typeof error === 'object' &&
    error !== null &&
    'type' in error &&
    'status' in error &&
    typeof error.status === 'number' &&
    error.status < 500
  );
}
