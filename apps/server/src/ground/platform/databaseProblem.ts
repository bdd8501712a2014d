const codeOf = (error: unknown): string => String((error as { code?: unknown } | null)?.code ?? '');
const wordsOf = (error: unknown): string => `${codeOf(error)} ${(error as Error | null)?.message ?? ''}`;
const STOPPED = new Set(['57P01', '57P02', '57P03']);

/** PostgreSQL cannot be reached, or is just being stopped or started: nothing is wrong with what was asked. */
export function isAway(error: unknown): boolean {
  return (
    STOPPED.has(codeOf(error)) ||
    /ECONNREFUSED|ECONNRESET|ETIMEDOUT|EPIPE|Connection terminated|timeout exceeded when trying to connect|connection timeout/i.test(
      wordsOf(error),
    )
  );
}

/** What was sent can never be stored, however often it is tried: its values do not fit. */
export const neverFits = (error: unknown): boolean => /^(22|23|54)/.test(codeOf(error));

/** What it belongs to is not there any more: somebody removed it meanwhile. */
export const isOrphaned = (error: unknown): boolean => codeOf(error) === '23503';

/** What keeps PostgreSQL from doing its work, with what to do. Source of the codes: its manual, appendix A. */
export function databaseProblem(error: unknown): string {
  const code = codeOf(error);
  if (code === '53100') return 'its disk is full: give it room, or shorten the retention';
  if (code === '53300') return 'it has no connection left: raise max_connections';
  if (code === '42501') return 'its account may not write there: see to its rights';
  if (code === '25006') return 'it is read-only: this may be a standby';
  if (STOPPED.has(code)) return 'it is being stopped or started';
  if (isAway(error)) return 'it cannot be reached: see that it runs';
  return error instanceof Error ? error.message : String(error);
}
