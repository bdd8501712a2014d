import { clsx } from 'clsx';

/** States as words; blind is hatched, nothing is coloured that does not need a person. */
export function StateWord({ state }: { state: string }) {
  const blind = state === 'blind' || state === 'failing' || state === 'late' || state === 'unread' || state === 'never';
  return (
    <span
      className={clsx(
        'border px-1.5 text-xs',
        blind ? 'hatched border-structure font-bold' : 'border-transparent text-soft',
      )}
    >
      {state}
    </span>
  );
}
