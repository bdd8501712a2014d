import { type ArgumentsHost, Catch, type ExceptionFilter, HttpException } from '@nestjs/common';
import type { StandardSchemaV1 } from '@standard-schema/spec';
import type { Problem } from '@zetopsis/contract';
import type { Response } from 'express';
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
    if (response.headersSent) {
      response.end();
      return;
    }
    const [status, problem] = this.problem(error);
    response.status(status).json(problem);
  }

  private problem(error: unknown): [number, Problem] {
    if (error instanceof Refusal)
      return [STATUS[error.code], { code: error.code, text: error.message, fields: error.fields }];
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
