import { clsx } from 'clsx';
import type { ReactNode } from 'react';
import { NavLink } from 'react-router';
import { useView } from './useView.ts';

export interface Part {
  readonly path: string;
  readonly name: string;
  /** What the word means, where it is not said by itself. */
  readonly about?: string;
  readonly view: ReactNode;
}

/** The parts of a place, one of which is shown. */
export function Parts({
  place,
  parts,
  shown,
  children,
}: {
  place: 'Admin' | 'Sources';
  parts: readonly Part[];
  shown: Part;
  children?: ReactNode;
}) {
  const { link } = useView();
  return (
    <nav aria-label={`parts of ${place}`} className="flex gap-5 border-b border-line px-5 pt-2 text-sm">
      {parts.map(({ path, name, about }) => (
        <NavLink
          key={path}
          title={about}
          to={link(`/${place.toLowerCase()}/${path}`)}
          aria-current={path === shown.path ? 'page' : undefined}
          className={clsx(
            'border-b-2 pb-1.5',
            path === shown.path ? 'border-ink font-bold' : 'border-transparent text-soft hover:text-ink',
          )}
        >
          {name}
        </NavLink>
      ))}
      {children}
    </nav>
  );
}
