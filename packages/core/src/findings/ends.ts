import type { ContainerEnd, ContainerObject } from '../inventory/index.ts';
import { OUT_OF_MEMORY_REASON } from '../inventory/wire-names.ts';

/** Signals as POSIX numbers them, and what a program means that ends by one. */
const SIGNALS: Readonly<Record<number, string>> = {
  1: 'hang-up',
  2: 'interrupted',
  3: 'quit',
  4: 'an instruction that the processor does not know',
  6: 'it gave itself up',
  7: 'memory that is not there',
  8: 'arithmetic error',
  9: 'killed',
  11: 'memory that is not its own',
  13: 'nobody reads what it writes',
  15: 'asked to end',
};
/** What shells and container runtimes mean by a code. */
const CODES: Readonly<Record<number, string>> = {
  126: 'its command cannot be executed',
  127: 'its command is not found',
  128: 'it could not be started',
};

const signalOf = ({ signal, exitCode }: ContainerEnd): number | null =>
  signal !== null && signal > 0
    ? signal
    : exitCode !== null && exitCode > 128 && exitCode < 160
      ? exitCode - 128
      : null;

/** "code 139, signal 11 (memory that is not its own)" */
export function endInWords(end: ContainerEnd): string {
  if (end.reason === OUT_OF_MEMORY_REASON) return `code ${end.exitCode ?? 137}, out of memory`;
  const signal = signalOf(end);
  if (signal !== null) {
    const meaning = SIGNALS[signal];
    return `${end.exitCode === null ? '' : `code ${end.exitCode}, `}signal ${signal}${meaning ? ` (${meaning})` : ''}`;
  }
  if (end.exitCode === null) return 'an unknown code';
  const meaning = CODES[end.exitCode];
  return `code ${end.exitCode}${meaning ? ` (${meaning})` : ''}`;
}
/** Ended from outside, for a reason that the end itself does not tell. */
export const wasKilled = (end: ContainerEnd): boolean =>
  end.reason !== OUT_OF_MEMORY_REASON && (signalOf(end) === 9 || signalOf(end) === 15);

const ROLES = { main: 'container', helper: 'helper container', 'start-up': 'start-up container' } as const;
export const calledOf = ({ role, name }: ContainerObject): string => `${ROLES[role]} ${name}`;
export const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
