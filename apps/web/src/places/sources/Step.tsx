import type { ReactNode } from 'react';

/** One step of a guide. */
export function Step({ number, text, children }: { number: number; text: string; children?: ReactNode }) {
  return (
    <section aria-label={`step ${number}`} className="flex gap-3">
      <span className="w-5 shrink-0 text-xl font-bold text-petrol">{number}</span>
      <div className="min-w-0 flex-1">
        <p className="mb-1.5">{text}</p>
        {children}
      </div>
    </section>
  );
}
