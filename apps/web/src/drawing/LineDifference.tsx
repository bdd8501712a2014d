import { clsx } from 'clsx';

export interface DifferenceLine {
  readonly is: 'same' | 'added' | 'removed';
  readonly text: string;
}
const SIGNS = { same: ' ', added: '+', removed: '−' } as const;

/** What differs between two texts, line by line; `fresh`: there was none before, so that nothing of it stands out. */
export function LineDifference({
  lines,
  fresh = false,
  className = '',
}: {
  lines: readonly DifferenceLine[];
  fresh?: boolean;
  className?: string;
}) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard
    <pre className={`overflow-auto font-mono text-xs leading-relaxed ${className}`} tabIndex={0}>
      {lines.map(({ is, text }, i) => (
        // lines of a text have no identity but their place
        <span
          key={i}
          className={clsx(
            'block',
            is === 'same' && 'text-soft',
            is === 'removed' && 'line-through decoration-1',
            is === 'added' && !fresh && 'font-semibold',
          )}
        >
          {SIGNS[is]} {text}
        </span>
      ))}
    </pre>
  );
}
