import { clsx } from 'clsx';
import { nameParts } from './names.ts';

/** A name that is cut in its middle where there is no room: its end is what tells it from its neighbours. */
export function CutName({ name, className }: { name: string; className?: string }) {
  const [front, end] = nameParts(name);
  return (
    <span className={clsx('inline-flex min-w-0 max-w-full whitespace-pre', className)}>
      <span className="truncate">{front}</span>
      {end !== '' && <span className="shrink-0">{end}</span>}
    </span>
  );
}
