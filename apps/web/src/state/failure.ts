import { Problem } from '@zetopsis/contract';

/** What can go wrong with a request, as a union up to the view. */
export interface Failure {
  readonly kind: 'offline' | 'notSignedIn' | 'notAllowed' | 'invalid' | 'gone' | 'refused' | 'stopped';
  readonly text: string;
  readonly fields: readonly { readonly path: string; readonly text: string }[];
  /** When there was something to look at, where there is nothing now. */
  readonly seenAt?: number;
}

const OFFLINE: Failure = {
  kind: 'offline',
  text: 'Zetopsis’ server cannot be reached. What is shown stays; it is tried again by itself.',
  fields: [],
};

export function failureOf(status: number | string, data: unknown): Failure {
  if (typeof status !== 'number') return OFFLINE;
  const problem = Problem.safeParse(data);
  const text = problem.success ? problem.data.text : `The server answered ${status}.`;
  const fields = problem.success ? problem.data.fields : [];
  switch (status) {
    case 400:
    case 409:
      return { kind: 'invalid', text, fields };
    case 401:
      return { kind: 'notSignedIn', text, fields };
    case 403:
      return { kind: 'notAllowed', text, fields };
    case 404:
    case 410:
      return {
        kind: 'gone',
        text,
        fields,
        ...(problem.success && problem.data.seenAt !== undefined ? { seenAt: problem.data.seenAt } : {}),
      };
    case 502:
    case 504:
      return OFFLINE;
    default:
      return { kind: 'refused', text, fields };
  }
}

function isFailure(error: unknown): error is Failure {
  return typeof error === 'object' && error !== null && 'kind' in error && 'text' in error;
}
/** As a request ends that whoever asked gave up. */
const isStopped = (error: unknown): boolean =>
  typeof error === 'object' && error !== null && 'name' in error && error.name === 'AbortError';
export function asFailure(error: unknown): Failure {
  if (isFailure(error)) return error;
  if (isStopped(error)) return { kind: 'stopped', text: 'Stopped.', fields: [] };
  return {
    kind: 'refused',
    text: 'The answer of the server is not what this page expects. Reload the page.',
    fields: [],
  };
}
