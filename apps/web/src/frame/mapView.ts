/** How boxes of the map are put together in lanes. */
export const LANES = ['namespace', 'team', 'cluster'] as const;
export type LanesBy = (typeof LANES)[number];
export interface MapView {
  /** The key of the link that is looked at; empty: none. */
  readonly link: string;
  /** How many links away one looks from it; 0: everything. */
  readonly away: number;
  readonly lanes: LanesBy;
  readonly folded: readonly string[];
}
const LONGEST = 1600;
const FARTHEST = 3;
const MOST_FOLDED = 50;

export function readMapView(parameters: URLSearchParams): MapView {
  const away = Number(parameters.get('away') ?? 1);
  return {
    link: (parameters.get('link') ?? '').slice(0, LONGEST),
    away: Number.isInteger(away) && away >= 0 && away <= FARTHEST ? away : 1,
    lanes: LANES.find((one) => one === parameters.get('lanes')) ?? 'namespace',
    folded: (parameters.get('folded') ?? '')
      .slice(0, LONGEST)
      .split('|')
      .filter((name) => name !== '')
      .slice(0, MOST_FOLDED),
  };
}
export const writeMapView = ({ link, away, lanes, folded }: MapView): Record<string, string | undefined> => ({
  link: link || undefined,
  away: away === 1 ? undefined : String(away),
  lanes: lanes === 'namespace' ? undefined : lanes,
  folded: folded.length === 0 ? undefined : folded.join('|'),
});
