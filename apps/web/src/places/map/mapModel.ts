import type { MapAnswer, MapBox, MapLink } from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
import { type LaidOut, lanesBySteps } from '@zetopsis/core/links';
import { toTheEnd } from '@zetopsis/core/steps';
import type { LanesBy, MapView } from '../../frame/mapView.ts';

/** What is drawn: boxes, or folded lanes as one box each, and who calls whom. */
export interface DrawnBox {
  readonly key: string;
  readonly name: string;
  readonly lane: string;
  /** Null: a folded lane. */
  readonly box: MapBox | null;
  /** Of a folded lane: how many it holds. */
  readonly holds: number;
  /** Of a folded lane: the worst that is found in it. */
  readonly worst: Severity | null;
  /** Rows of pods that are drawn in it; 0: it is closed. */
  readonly rows: number;
  readonly x: number;
  readonly y: number;
}
export interface DrawnLink {
  readonly key: string;
  readonly from: string;
  readonly to: string;
  /** The worst of those that are one here; their keys. */
  readonly link: MapLink;
  readonly links: readonly string[];
}
export interface DrawnLane {
  readonly name: string;
  readonly y: number;
  readonly height: number;
  readonly folded: boolean;
  readonly holds: number;
}
export interface Drawn {
  readonly boxes: readonly DrawnBox[];
  readonly links: readonly DrawnLink[];
  readonly lanes: readonly DrawnLane[];
  readonly width: number;
  readonly height: number;
  /** Boxes that there are beside those that are drawn. */
  readonly hidden: number;
  readonly laid: LaidOut;
}
export const BOX = { width: 168, height: 30, gapX: 86, gapY: 12, left: 14, top: 26, bottom: 10, row: 17 } as const;
/** Of a box that is open, so many pods have a row; the rest is one. */
export const MOST_ROWS = 7;
export const heightOf = (rows: number): number => BOX.height + (rows === 0 ? 0 : rows * BOX.row + 4);
/** Where nothing is picked, everything is drawn up to so many boxes; beyond, what is in trouble with its surroundings. */
const FEW = 60;
const ORDER: readonly MapLink['state'][] = ['refused', 'silent', 'failing', 'slow', 'flooded', null];

function laneOf(box: MapBox, by: LanesBy): string {
  if (box.kind === 'outside' || box.kind === 'host') return 'outside the clusters';
  if (box.kind === 'notYours') return 'not yours';
  if (by === 'cluster') return box.cluster;
  if (by === 'team') return box.team ?? 'nobody’s';
  return `${box.cluster} / ${box.namespace}`;
}
const worse = (a: MapLink, b: MapLink): MapLink => (ORDER.indexOf(b.state) < ORDER.indexOf(a.state) ? b : a);

/** Boxes within so many links of some, along them and against. */
function around(answer: MapAnswer, start: ReadonlySet<string>, away: number): ReadonlySet<string> {
  const near = new Set(start);
  for (let step = 0; step < away; step++) {
    const before = new Set(near);
    for (const { from, to } of answer.links) {
      if (before.has(from)) near.add(to);
      if (before.has(to)) near.add(from);
    }
  }
  return near;
}
/** Whether a box stands where one looks. */
const isIn = ({ key, cluster, namespace }: MapBox, [inCluster, inNamespace, workload]: readonly string[]): boolean =>
  cluster === inCluster &&
  (inNamespace === undefined || namespace === inNamespace) &&
  (workload === undefined || key === `${cluster}/${namespace}/${workload}`);
/** What is looked at: around what is picked; else what stands in the scope with its surroundings; where that is much, what is in trouble. */
export function lookedAt(
  answer: MapAnswer,
  { link, away }: Pick<MapView, 'link' | 'away'>,
  path: readonly string[],
): ReadonlySet<string> {
  const picked = answer.links.find(({ key }) => key === link);
  const box = answer.boxes.find(({ key }) => key === link);
  if (away > 0 && picked) return around(answer, new Set([picked.from, picked.to]), away);
  if (away > 0 && box) return around(answer, new Set([box.key]), away);
  const own = answer.boxes.filter((one) => path.length === 0 || isIn(one, path)).map(({ key }) => key);
  const all = path.length === 0 ? new Set(own) : around(answer, new Set(own), Math.max(1, away));
  if (away === 0 || all.size <= FEW) return all;
  const ill = new Set(
    answer.links.flatMap(({ state, from, to }) => (state !== null && all.has(from) && all.has(to) ? [from, to] : [])),
  );
  return ill.size === 0 ? new Set([...all].slice(0, FEW)) : around(answer, ill, away);
}

/** So many boxes or links are looked at between two steps. */
const AT_ONCE = 200;

/** In one go; `before`: what was drawn last of the same view. */
export const drawnMap = (
  answer: MapAnswer,
  view: MapView,
  path: readonly string[],
  before: LaidOut | null = null,
): Drawn => toTheEnd(drawnMapBySteps(answer, view, path, before));

export function* drawnMapBySteps(
  answer: MapAnswer,
  view: MapView,
  path: readonly string[],
  before: LaidOut | null,
): Generator<void, Drawn> {
  const seen = lookedAt(answer, view, path);
  yield;
  const folded = new Set(view.folded);
  const shown = answer.boxes.filter(({ key }) => seen.has(key));
  const holds = new Map<string, number>();
  const worst = new Map<string, Severity>();
  const standsAt = new Map<string, string>();
  const boxes = new Map<string, Omit<DrawnBox, 'x' | 'y' | 'holds' | 'worst'>>();
  const opened = new Set(view.opened);
  for (const [i, box] of shown.entries()) {
    if (i % AT_ONCE === 0) yield;
    const lane = laneOf(box, view.lanes);
    holds.set(lane, (holds.get(lane) ?? 0) + 1);
    if (box.severity === 'critical' || (box.severity !== null && !worst.has(lane))) worst.set(lane, box.severity);
    const key = folded.has(lane) ? `lane ${lane}` : box.key;
    standsAt.set(box.key, key);
    if (!boxes.has(key))
      boxes.set(key, {
        key,
        lane,
        name: folded.has(lane) ? lane : box.name,
        box: folded.has(lane) ? null : box,
        rows: folded.has(lane) || !opened.has(key) ? 0 : Math.min(box.holds ?? 0, MOST_ROWS),
      });
  }
  const links = new Map<string, { from: string; to: string; link: MapLink; links: string[] }>();
  for (const [i, link] of answer.links.entries()) {
    if (i % AT_ONCE === 0) yield;
    const [from, to] = [standsAt.get(link.from), standsAt.get(link.to)];
    if (from === undefined || to === undefined || from === to) continue;
    const key = `${from} → ${to}`;
    const known = links.get(key);
    if (known) {
      known.link = worse(known.link, link);
      known.links.push(link.key);
    } else links.set(key, { from, to, link, links: [link.key] });
  }
  const laid = yield* lanesBySteps([...boxes.values()], [...links.values()], before);
  const stepX = BOX.width + BOX.gapX;
  // a row is as high as the highest box in it
  const heights = new Map<number, number>();
  for (const { key, rows } of boxes.values()) {
    const { row } = laid.boxes.get(key)!; // all are laid out
    heights.set(row, Math.max(heights.get(row) ?? 0, heightOf(rows)));
  }
  const tops = new Map<number, number>();
  const lanes: DrawnLane[] = [];
  let y = 0;
  for (const { name, row, rows } of laid.lanes) {
    let top = y + BOX.top;
    for (let own = row; own < row + rows; own++) {
      tops.set(own, top);
      top += (heights.get(own) ?? BOX.height) + BOX.gapY;
    }
    const height = top - y - BOX.gapY + BOX.bottom;
    lanes.push({ name, y, height, folded: folded.has(name), holds: holds.get(name) ?? 0 });
    y += height;
  }
  return {
    boxes: [...boxes.values()].map((box) => {
      const { column, row } = laid.boxes.get(box.key)!; // all are laid out
      return {
        ...box,
        holds: box.box === null ? (holds.get(box.lane) ?? 0) : 0,
        worst: box.box === null ? (worst.get(box.lane) ?? null) : null,
        x: BOX.left + column * stepX,
        y: tops.get(row)!, // each row stands in a lane
      };
    }),
    links: [...links].map(([key, link]) => ({ key, ...link })),
    lanes,
    width: 2 * BOX.left + Math.max(1, laid.columns) * stepX - BOX.gapX,
    height: y,
    hidden: answer.boxes.length - shown.length,
    laid,
  };
}
