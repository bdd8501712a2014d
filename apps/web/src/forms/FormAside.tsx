import type { ReactNode } from 'react';

const WIDTHS = { narrow: 'w-[460px]', wide: 'w-[520px]', widest: 'w-[560px]' } as const;

/** A form beside the list that it adds to. */
export function FormAside({
  label,
  title,
  width,
  children,
}: {
  label: string;
  title: string;
  width: keyof typeof WIDTHS;
  children: ReactNode;
}) {
  return (
    <aside
      aria-label={label}
      className={`${WIDTHS[width]} shrink-0 overflow-y-auto border-l border-line bg-sheet px-5 py-4`}
    >
      <h2 className="mb-2 text-xl">{title}</h2>
      {children}
    </aside>
  );
}
