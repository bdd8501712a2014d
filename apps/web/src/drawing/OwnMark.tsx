const SHAPES = {
  rollout: 'M2 14h11M6 14V3l7 3.8l-7 3.4',
  restart: 'M12.5 8a4.7 4.7 0 1 1-1.6-3.5M11.4 1.4v3.4H8',
  'out of memory': 'M3 13V5h10v8zM3 8.5h10M6 2.5v2.5M10 2.5v2.5M6 13v1.5M10 13v1.5',
  cluster: 'M2 5l6-3l6 3v6l-6 3l-6-3zM2 5l6 3l6-3M8 8v6',
  node: 'M2 4h12v8h-12zM4.5 9.5h3',
  namespace: 'M5 2h-2.5v12h2.5M11 2h2.5v12h-2.5',
  deployment: 'M2 5h8v8h-8zM6 5v-2.5h8v8h-4',
  'daemon set': 'M2 3h3v10h-3zM6.5 3h3v10h-3zM11 3h3v10h-3z',
  'replica set': 'M3 3h10v3h-10zM3 7h10v3h-10zM3 11h10v3h-10z',
  'stateful set': 'M3 4.5c0-2.5 10-2.5 10 0v7c0 2.5-10 2.5-10 0zM3 4.5c0 2.5 10 2.5 10 0',
  job: 'M3 14V2h7l3 3v9zM6 8l1.5 2L11 6.5',
  'lone pod': 'M8 2.5l6 11h-12z',
  other: 'M3 3h10v10h-10z',
  pod: 'M8 2.5a5.5 5.5 0 1 0 .01 0zM8 6a2 2 0 1 0 .01 0z',
  container: 'M2.5 4h11v8h-11zM5 4v8M8 4v8M11 4v8',
  raised: 'M8 2v9M8 13.2v.6',
  cleared: 'M3 8.5l3.5 3.5L13 5',
} as const;
export type MarkName = keyof typeof SHAPES;

export const isMarkName = (name: string): name is MarkName => name in SHAPES;

/** Our own marks: one grid of 16, one line weight. */
export function OwnMark({ name, size = 15, label }: { name: MarkName; size?: number; label?: string }) {
  const named = label === undefined ? { 'aria-hidden': true } : { role: 'img', 'aria-label': label };
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 16 16"
      className="inline-block shrink-0"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.3"
      {...named}
    >
      <path d={SHAPES[name]} />
    </svg>
  );
}
