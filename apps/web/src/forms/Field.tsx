import type { ReactNode } from 'react';
import type { Failure } from '../state/failure.ts';

/** One labelled field with its problem under it. */
export function Field({
  id,
  label,
  error,
  children,
}: {
  id: string;
  label: string;
  error?: string | undefined;
  children: ReactNode;
}) {
  return (
    <div className="mb-3">
      <label htmlFor={id} className="mb-0.5 block text-sm font-semibold">
        {label}
      </label>
      {children}
      {error && (
        <p id={`${id}-problem`} role="alert" className="mt-0.5 text-sm text-critical">
          {error}
        </p>
      )}
    </div>
  );
}

export const problemOf = (failure: Failure | null, path: string): string | undefined =>
  failure?.fields.find((field) => field.path === path)?.text;
