import type { Finding } from '@zetopsis/contract';

type Severity = Finding['severity'];

/** Severity and nothing else: filled = critical, half filled = warning; the word stands in its accessible name. */
export function Diamond({ severity, size = 11 }: { severity: Severity; size?: number }) {
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 12 12"
      role="img"
      aria-label={severity}
      className="inline-block shrink-0"
    >
      {severity === 'critical' ? (
        <path d="M6 0L12 6L6 12L0 6z" fill="var(--critical)" />
      ) : (
        <>
          <path d="M6 .8L11.2 6L6 11.2L.8 6z" fill="none" stroke="var(--warning)" strokeWidth="1.4" />
          <path d="M6 0V12L0 6z" fill="var(--warning)" />
        </>
      )}
    </svg>
  );
}
