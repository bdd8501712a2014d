/** How boxes of the map are put together in lanes. */
export const LANES = ['namespace', 'team', 'cluster'] as const;
export type LanesBy = (typeof LANES)[number];
export const OF_BOXES = ['nothing', 'CPU', 'memory'] as const;
/** A saved measure by its key. */
type OfMeasure = `measure:${string}`;
export type OfBoxes = (typeof OF_BOXES)[number] | OfMeasure;
export const OF_LINKS = ['nothing', 'requests', 'failed', '95 of 100 within'] as const;
export type OfLinks = (typeof OF_LINKS)[number] | OfMeasure;
/** The key of the saved measure that is shown; null: none is. */
export const measureShown = (of: OfBoxes | OfLinks): string | null =>
  of.startsWith('measure:') ? of.slice('measure:'.length) : null;
const MEASURE = /^measure:[a-zA-Z0-9-]{1,60}$/;
const readOf = <T extends string>(text: string | null, options: readonly T[], usual: T): T | OfMeasure =>
  options.find((one) => one === text) ?? (MEASURE.test(text ?? '') ? (text as OfMeasure) : usual); // it begins so
export interface MapView {
  /** The key of the link that is looked at; empty: none. */
  readonly link: string;
  /** How many links away one looks from it; 0: everything. */
  readonly away: number;
  readonly lanes: LanesBy;
  readonly folded: readonly string[];
  /** Keys of boxes that are open in place. */
  readonly opened: readonly string[];
  /** What boxes and links are drawn with beside their names. */
  readonly ofBoxes: OfBoxes;
  readonly ofLinks: OfLinks;
}
const LONGEST = 1600;
const FARTHEST = 3;
const MOST_FOLDED = 50;
export const MOST_OPENED = 8;

/** What one sees of something that is picked. */
export const mapAround = (link: string): MapView => ({
  link,
  away: 1,
  lanes: 'namespace',
  folded: [],
  opened: [],
  ofBoxes: 'CPU',
  ofLinks: 'nothing',
});

const listed = (text: string | null, most: number): readonly string[] =>
  (text ?? '')
    .slice(0, LONGEST)
    .split('|')
    .filter((name) => name !== '')
    .slice(0, most);
export function readMapView(parameters: URLSearchParams): MapView {
  const away = Number(parameters.get('away') ?? 1);
  return {
    link: (parameters.get('link') ?? '').slice(0, LONGEST),
    away: Number.isInteger(away) && away >= 0 && away <= FARTHEST ? away : 1,
    lanes: LANES.find((one) => one === parameters.get('lanes')) ?? 'namespace',
    ofBoxes: readOf(parameters.get('boxes'), OF_BOXES, 'CPU'),
    ofLinks: readOf(parameters.get('figures'), OF_LINKS, 'nothing'),
    folded: listed(parameters.get('folded'), MOST_FOLDED),
    opened: listed(parameters.get('opened'), MOST_OPENED),
  };
}
export const writeMapView = ({
  link,
  away,
  lanes,
  folded,
  opened,
  ofBoxes,
  ofLinks,
}: MapView): Record<string, string | undefined> => ({
  link: link || undefined,
  away: away === 1 ? undefined : String(away),
  lanes: lanes === 'namespace' ? undefined : lanes,
  folded: folded.length === 0 ? undefined : folded.join('|'),
  opened: opened.length === 0 ? undefined : opened.join('|'),
  boxes: ofBoxes === 'CPU' ? undefined : ofBoxes,
  figures: ofLinks === 'nothing' ? undefined : ofLinks,
});
