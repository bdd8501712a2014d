const SHAPES = {
  rollout: 'M2 14h11M6 14V3l7 3.8l-7 3.4',
  restart: 'M12.5 8a4.7 4.7 0 1 1-1.6-3.5M11.4 1.4v3.4H8',
  'out of memory': 'M3 13V5h10v8zM3 8.5h10M6 2.5v2.5M10 2.5v2.5M6 13v1.5M10 13v1.5',
  cluster: 'M2 5l6-3l6 3v6l-6 3l-6-3zM2 5l6 3l6-3M8 8v6',
  node: 'M2 4h12v8h-12zM4.5 9.5h3',
  host: 'M4 2h8v12h-8zM6 5h4M6 8h4M7.5 11.5h1',
  namespace: 'M5 2h-2.5v12h2.5M11 2h2.5v12h-2.5',
  deployment: 'M2 5h8v8h-8zM6 5v-2.5h8v8h-4',
  'daemon set': 'M2 3h3v10h-3zM6.5 3h3v10h-3zM11 3h3v10h-3z',
  'replica set': 'M3 3h10v3h-10zM3 7h10v3h-10zM3 11h10v3h-10z',
  'stateful set': 'M3 4.5c0-2.5 10-2.5 10 0v7c0 2.5-10 2.5-10 0zM3 4.5c0 2.5 10 2.5 10 0',
  'cron job': 'M8 2.5a5.5 5.5 0 1 0 .01 0zM8 5v3l2.5 1.5M11.5 1.5l2.5 2.5',
  service: 'M2 8h4M10 8h4M6 5.5v5M10 5.5v5M6 5.5h4M6 10.5h4',
  'endpoint slice': 'M2 8h4M10 8h4M6 5.5v5M10 5.5v5',
  'persistent volume': 'M2.5 4c0-2 11-2 11 0v8c0 2-11 2-11 0zM2.5 4c0 2 11 2 11 0M2.5 9.5h11',
  'volume claim': 'M2.5 4c0-2 11-2 11 0v8c0 2-11 2-11 0zM2.5 4c0 2 11 2 11 0M6 10.5l1.5 1.5L10.5 9',
  quota: 'M2 5h12v6h-12zM10 3v10',
  'limit range': 'M2 8h12M4 5v6M12 5v6',
  autoscaler: 'M3 13h4v-4h-4zM9 13h4V4h-4zM4 6.5l2.5-3l2.5 1',
  'disruption budget': 'M8 2l5 2v4c0 3-2 5-5 6c-3-1-5-3-5-6V4z',
  'config map': 'M3 2.5h10v11h-10zM5.5 5.5h5M5.5 8h5M5.5 10.5h3',
  secret: 'M4 7.5h8v6h-8zM5.5 7.5v-2.5c0-3.3 5-3.3 5 0v2.5',
  'node change': 'M2 4h12v8h-12zM5 10l3-4l3 4',
  'config change': 'M3 2.5h10v11h-10zM5.5 5.5h5M8 8v3.5M6.2 9.8h3.6',
  scaled: 'M2 13h4V9h-4zM7 13h3V6h-3zM11 13h3V3h-3z',
  'pod lost': 'M8 2.5l6 11h-12zM5.5 10.5h5',
  'run failed': 'M3 14V2h7l3 3v9zM6 7l4 4M10 7l-4 4',
  revision: 'M4 2h6l3 3v9h-9zM6 9.5a2.4 2.4 0 1 1 .8 1.8M6 12v-2.4h2.3',
  'new link': 'M1.5 11.5h13M8 1.8v7M4.5 5.3h7',
  'gone link': 'M1.5 11.5h4m5 0h4M5.5 8.5v6m5 -6v6M4.5 4.5h7',
  others: 'M3 5h10M3 8h10M3 11h10',
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
