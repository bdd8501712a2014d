import { type ReactNode, useEffect, useRef } from 'react';

/** What came of trying a form, under it; scrolled into sight when it comes. */
export function Outcome({
  label,
  block = 'nearest',
  className = '',
  children,
}: {
  label: string;
  block?: 'nearest' | 'start';
  className?: string;
  children: ReactNode;
}) {
  const section = useRef<HTMLElement>(null);
  useEffect(() => {
    // what it returns is no clean-up, so it must not be handed on
    void section.current?.scrollIntoView({ block });
  }, [block]);
  return (
    <section ref={section} aria-label={label} role="status" className={`mt-4 border-t border-line pt-3 ${className}`}>
      {children}
    </section>
  );
}
