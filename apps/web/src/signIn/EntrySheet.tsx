import type { ReactNode } from 'react';

/** The sheet that both ways in are drawn on: a plan of what the product measures, and the form. */
export function EntrySheet({ title, children, beside }: { title: string; children: ReactNode; beside?: ReactNode }) {
  return (
    <main className="flex min-h-full items-center justify-center p-6">
      <div className="w-full max-w-[760px] border border-structure bg-sheet">
        <div className="border-b border-line px-8 pt-7 pb-6">
          <Elevation />
          <h1 className="mt-5 text-[26px] leading-tight">Zetopsis</h1>
          <p className="text-soft">shared clusters, every usage with its limit next to it</p>
        </div>
        <div className="grid gap-8 px-8 py-6 sm:grid-cols-2">
          <section aria-label={title}>
            <h2 className="section-title mb-3">{title}</h2>
            {children}
          </section>
          {beside}
        </div>
      </div>
    </main>
  );
}

/** One headroom strip, drawn large with its parts named, like the legend of a drawing. */
function Elevation() {
  return (
    <svg
      viewBox="0 0 696 76"
      className="w-full"
      role="img"
      aria-label="a strip: use now, peak of the window, request, where it is heading, and the limit at its end"
    >
      <rect x=".5" y="24.5" width="640" height="22" fill="none" stroke="var(--structure)" />
      <rect x="1" y="25" width="330" height="21" fill="var(--fill-3)" />
      <path d="M331 35.5H420" stroke="var(--fill-3)" strokeWidth="2.5" />
      <path d="M250 42v12" stroke="var(--ink)" strokeWidth="1.6" />
      <path d="M500 28l8 7.5l-8 7.5" fill="none" stroke="var(--ink)" strokeWidth="1.6" />
      <path d="M640.5 16v38" stroke="var(--critical)" strokeWidth="2" />
      <g fontSize="12.5" fill="var(--soft)">
        <path d="M165 24V14M420 33V14M508 34V14" stroke="var(--structure)" />
        <text x="165" y="10" textAnchor="middle">
          use now
        </text>
        <text x="420" y="10" textAnchor="middle">
          peak
        </text>
        <text x="508" y="10" textAnchor="middle">
          heading
        </text>
        <text x="640" y="10" textAnchor="middle">
          limit
        </text>
        <text x="250" y="68" textAnchor="middle">
          request
        </text>
      </g>
    </svg>
  );
}
