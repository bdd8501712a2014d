import type { ReactNode } from 'react';
import { asFailure } from '../state/failure.ts';

/** Nothing to show, and why; what to do next stands under it. */
export function StateNote({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="max-w-xl py-6 text-soft">
      <p className="text-lg font-semibold text-ink">{title}</p>
      <div className="mt-1 space-y-2">{children}</div>
    </div>
  );
}

const TITLES = {
  offline: 'The server cannot be reached',
  notSignedIn: 'You are signed out',
  notAllowed: 'Not allowed',
  invalid: 'This cannot be done so',
  gone: 'Nothing here',
  refused: 'It did not work',
  stopped: 'It was stopped',
} as const;

/** `children`: what leads on from it, beside trying again. */
export function FailureNote({ error, retry, children }: { error: unknown; retry?: () => void; children?: ReactNode }) {
  const failure = asFailure(error);
  return (
    <div role="alert">
      <StateNote title={TITLES[failure.kind]}>
        <p>{failure.text}</p>
        {children}
        {retry && failure.kind !== 'notAllowed' && (
          <button type="button" className="button" onClick={retry}>
            try again
          </button>
        )}
      </StateNote>
    </div>
  );
}

/** Stands where rows will be, in their size. */
export function RowSkeleton({ rows, height }: { rows: number; height: number }) {
  return (
    <div role="status" aria-label="loading">
      {Array.from({ length: rows }, (_, row) => (
        <div key={row} className="border-b border-hair px-3 py-2" style={{ height }}>
          <div className="h-3 w-2/5 bg-hair" />
          <div className="mt-2 h-2 w-full bg-hair" />
        </div>
      ))}
    </div>
  );
}
