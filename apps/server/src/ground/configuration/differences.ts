import type { DocumentDifference } from '@zetopsis/contract';
import { diffLines } from 'diff';
import { stringify } from 'yaml';
import type { DocumentChange } from './documents.ts';

const textOf = (body: unknown): string =>
  body === null ? '' : stringify(body, { lineWidth: 110, sortMapEntries: true });

export const kindOfChange = ({ before, after }: Pick<DocumentChange, 'before' | 'after'>): DocumentDifference['was'] =>
  before === null ? 'added' : after === null ? 'removed' : 'changed';

/** What differs between two texts, line by line. */
export function linesBetween(before: string, after: string): DocumentDifference['lines'] {
  return diffLines(before, after).flatMap((part) =>
    part.value
      .replace(/\n$/, '')
      .split('\n')
      .map((text) => ({
        is: part.added ? ('added' as const) : part.removed ? ('removed' as const) : ('same' as const),
        text,
      })),
  );
}

/** A change as a person reads it: both documents as text, line by line. */
export function differenceOf(change: DocumentChange): DocumentDifference {
  const lines = linesBetween(textOf(change.before), textOf(change.after));
  return { kind: change.kind, key: change.key, was: kindOfChange(change), lines, warning: warningOf(change) };
}

function warningOf(change: DocumentChange): string | null {
  if (change.kind !== 'cluster') return null;
  if (change.after === null) return 'Everything read from this cluster is removed with it, and does not come back.';
  return change.before === null
    ? 'Its token is not in any file: enter it under Sources, until then it is blind.'
    : null;
}
