import type { DocumentDifference } from '@zetopsis/contract';
import { clsx } from 'clsx';

const SIGNS = { same: ' ', added: '+', removed: '−' } as const;

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
          <pre className="overflow-x-auto px-3 py-1.5 font-mono text-xs leading-relaxed">
            {lines.map(({ is, text }, i) => (
              // lines of a text have no identity but their place
              <span
                key={i}
                className={clsx(
                  'block',
                  is === 'same' && 'text-soft',
                  is === 'removed' && 'line-through decoration-1',
                  is === 'added' && was === 'changed' && 'font-semibold',
                )}
              >
                {SIGNS[is]} {text}
              </span>
            ))}
          </pre>
        </li>
      ))}
    </ul>
  );
}
