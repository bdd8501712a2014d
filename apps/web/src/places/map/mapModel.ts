import type { MapAnswer, MapBox, MapLink } from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
import { inLanes } from '@zetopsis/core/links';
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
}
export const BOX = { width: 150, height: 30, gapX: 96, gapY: 12, left: 14, top: 26, bottom: 10 } as const;
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

export function drawnMap(answer: MapAnswer, view: MapView, path: readonly string[]): Drawn {
  const seen = lookedAt(answer, view, path);
  const folded = new Set(view.folded);
  const shown = answer.boxes.filter(({ key }) => seen.has(key));
  const holds = new Map<string, number>();
  const worst = new Map<string, Severity>();
  const standsAt = new Map<string, string>();
  const boxes = new Map<string, Omit<DrawnBox, 'x' | 'y' | 'holds' | 'worst'>>();
  for (const box of shown) {
    const lane = laneOf(box, view.lanes);
    holds.set(lane, (holds.get(lane) ?? 0) + 1);
    if (box.severity === 'critical' || (box.severity !== null && !worst.has(lane))) worst.set(lane, box.severity);
    const key = folded.has(lane) ? `lane ${lane}` : box.key;
    standsAt.set(box.key, key);
    if (!boxes.has(key))
      boxes.set(key, { key, lane, name: folded.has(lane) ? lane : box.name, box: folded.has(lane) ? null : box });
  }
  const links = new Map<string, { from: string; to: string; link: MapLink; links: string[] }>();
  for (const link of answer.links) {
    const [from, to] = [standsAt.get(link.from), standsAt.get(link.to)];
    if (from === undefined || to === undefined || from === to) continue;
    const key = `${from} → ${to}`;
    const known = links.get(key);
    if (known) {
      known.link = worse(known.link, link);
      known.links.push(link.key);
    } else links.set(key, { from, to, link, links: [link.key] });
  }
  const laid = inLanes([...boxes.values()], [...links.values()]);
  const stepX = BOX.width + BOX.gapX;
  const stepY = BOX.height + BOX.gapY;
  const tops = new Map<string, number>();
  const lanes: DrawnLane[] = [];
  let y = 0;
  for (const { name, row, rows } of laid.lanes) {
    tops.set(name, y + BOX.top - row * stepY);
    const height = BOX.top + rows * stepY - BOX.gapY + BOX.bottom;
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
        y: tops.get(box.lane)! + row * stepY, // each stands in a lane
      };
    }),
    links: [...links].map(([key, link]) => ({ key, ...link })),
    lanes,
    width: 2 * BOX.left + Math.max(1, laid.columns) * stepX - BOX.gapX,
    height: y,
    hidden: answer.boxes.length - shown.length,
  };
}
