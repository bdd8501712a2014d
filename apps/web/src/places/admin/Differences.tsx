import type { DocumentDifference } from '@zetopsis/contract';
import { LineDifference } from '../../drawing/LineDifference.tsx';

/** What differs, document by document, line by line. `done`: it lies in the past, so that nothing needs to be warned of. */
export function Differences({
  differences,
  done = false,
}: {
  differences: readonly DocumentDifference[];
  done?: boolean;
}) {
  return (
    <ul className="space-y-3">
      {differences.map(({ kind, key, was, lines, warning }) => (
        <li key={`${kind} ${key}`} className="border border-line bg-sheet">
          <p className="border-b border-hair px-3 py-1 text-sm">
            <b className="font-semibold">
              {kind} {key}
            </b>{' '}
            <span className="text-soft">{was}</span>
          </p>
          {warning !== null && !done && (
            <p className="border-b border-hair px-3 py-1 text-sm font-semibold">{warning}</p>
          )}
          <LineDifference lines={lines} fresh={was !== 'changed'} className="px-3 py-1.5" />
        </li>
      ))}
    </ul>
  );
}
