import { toTheEnd } from '../steps/index.ts';

/** What is laid out: boxes in lanes (groups), and who calls whom. */
export interface LaneBox {
  readonly key: string;
  readonly lane: string;
}
export interface LaneLink {
  readonly from: string;
  readonly to: string;
}
export interface Placed {
  /** 0 is left: whoever calls, stands left of whom it calls. */
  readonly column: number;
  readonly row: number;
}
export interface LaidOut {
  readonly columns: number;
  readonly rows: number;
  readonly boxes: ReadonlyMap<string, Placed>;
  /** From the top; each has its rows for itself. */
  readonly lanes: readonly { readonly name: string; readonly row: number; readonly rows: number }[];
}
const SWEEPS = 4;

/** So many boxes are looked at between two steps. */
const AT_ONCE = 200;
/** What was laid out before is kept where so large a share of the boxes was in it. */
const MOSTLY = 0.8;

/**
 * Lays boxes out in lanes, callers left: the column is the longest way from who is called by nobody (links that lead back in a circle do not
 * count), the row stands near those of whom it talks to. The same boxes and links stand in the same places. What was laid out `before` stays
 * where it was as far as it is the same: what is new takes what is free in its lane. Some boxes at a time.
 */
export function* lanesBySteps(
  boxes: readonly LaneBox[],
  links: readonly LaneLink[],
  before: LaidOut | null = null,
): Generator<void, LaidOut> {
  const known = new Set(boxes.map(({ key }) => key));
  const own = links.filter(({ from, to }) => from !== to && known.has(from) && known.has(to));
  yield;
  const columns = yield* columnsOf(boxes, own);
  const lanes = new Map<string, LaneBox[]>();
  for (const box of [...boxes].sort((a, b) => compare(a.key, b.key))) {
    const lane = lanes.get(box.lane) ?? [];
    lane.push(box);
    lanes.set(box.lane, lane);
  }
  yield;
  if (before !== null && boxes.filter(({ key }) => before.boxes.has(key)).length >= MOSTLY * boxes.length)
    return yield* keptIn(before, lanes, columns);
  const neighbours = new Map<string, string[]>(boxes.map(({ key }) => [key, []]));
  for (const [i, { from, to }] of own.entries()) {
    neighbours.get(from)!.push(to); // each box has its list
    neighbours.get(to)!.push(from);
    if (i % AT_ONCE === 0) yield;
  }
  // lanes of those who call first stand above; those that talk to each other, near each other
  let order = [...lanes].sort(
    ([a, ours], [b, theirs]) =>
      mean(ours.map(({ key }) => columns.get(key)!)) - mean(theirs.map(({ key }) => columns.get(key)!)) ||
      compare(a, b), // each has a column
  );
  let placed = yield* rowsOf(order, columns, new Map());
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    const pulls = new Map<string, number>();
    for (const { key } of boxes) {
      const rows = neighbours.get(key)!.map((other) => placed.boxes.get(other)!.row); // as above
      pulls.set(key, rows.length === 0 ? placed.boxes.get(key)!.row : mean(rows));
      if (pulls.size % AT_ONCE === 0) yield;
    }
    const weights = new Map(order.map(([name, ours]) => [name, mean(ours.map(({ key }) => pulls.get(key)!))])); // all are pulled
    if (sweep < SWEEPS / 2) order = [...order].sort(([a], [b]) => weights.get(a)! - weights.get(b)! || compare(a, b));
    placed = yield* rowsOf(order, columns, pulls);
  }
  return { columns: mostOf(columns.values()) + (boxes.length > 0 ? 1 : 0), ...placed };
}
/** The same in one go. */
export const inLanes = (
  boxes: readonly LaneBox[],
  links: readonly LaneLink[],
  before: LaidOut | null = null,
): LaidOut => toTheEnd(lanesBySteps(boxes, links, before));

const mean = (values: readonly number[]): number =>
  values.reduce((sum, one) => sum + one, 0) / Math.max(1, values.length);
const mostOf = (values: Iterable<number>): number => {
  let most = 0;
  for (const value of values) most = Math.max(most, value);
  return most;
};
/** Everything that was there stays; a lane is as high as it was, or higher. */
function* keptIn(
  before: LaidOut,
  lanes: ReadonlyMap<string, readonly LaneBox[]>,
  columns: ReadonlyMap<string, number>,
): Generator<void, LaidOut> {
  const placed = new Map<string, Placed>();
  const laid: { name: string; row: number; rows: number }[] = [];
  const known = new Map(before.lanes.map((lane) => [lane.name, lane]));
  const order = [
    ...before.lanes.map(({ name }) => name).filter((name) => lanes.has(name)),
    ...[...lanes.keys()].filter((name) => !known.has(name)).sort(compare),
  ];
  let row = 0;
  let most = 0;
  for (const name of order) {
    const was = known.get(name);
    const own = lanes.get(name)!; // it is one of them
    const stays = ({ key }: LaneBox): Placed | null => {
      const at = before.boxes.get(key);
      return at && was && at.row >= was.row && at.row < was.row + was.rows ? at : null;
    };
    const taken = new Set<string>();
    let rows = was?.rows ?? 1;
    const put = (key: string, column: number, at: number) => {
      taken.add(`${column} ${at}`);
      placed.set(key, { column, row: row + at });
      rows = Math.max(rows, at + 1);
      most = Math.max(most, column + 1);
    };
    for (const box of own) {
      const at = stays(box);
      if (at && was) put(box.key, at.column, at.row - was.row);
    }
    const free = new Map<number, number>();
    for (const box of own) {
      if (placed.has(box.key)) continue;
      const column = columns.get(box.key)!; // each has one
      let at = free.get(column) ?? 0;
      while (taken.has(`${column} ${at}`)) at++;
      free.set(column, at);
      put(box.key, column, at);
    }
    laid.push({ name, row, rows });
    row += rows;
    yield;
  }
  return { columns: most, rows: row, boxes: placed, lanes: laid };
}
const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

/** Rows of each lane by itself: those of one column stand below each other, by where they are pulled. */
function* rowsOf(
  order: readonly (readonly [string, readonly LaneBox[]])[],
  columns: ReadonlyMap<string, number>,
  pulls: ReadonlyMap<string, number>,
): Generator<void, Pick<LaidOut, 'rows' | 'boxes' | 'lanes'>> {
  const placed = new Map<string, Placed>();
  const lanes: { name: string; row: number; rows: number }[] = [];
  let row = 0;
  for (const [name, boxes] of order) {
    const next = new Map<number, number>();
    const sorted = boxes
      .map(({ key }) => ({ key, at: pulls.get(key) ?? 0 }))
      .sort((a, b) => a.at - b.at || compare(a.key, b.key));
    for (const { key } of sorted) {
      const column = columns.get(key)!; // each has one
      const at = next.get(column) ?? 0;
      next.set(column, at + 1);
      placed.set(key, { column, row: row + at });
    }
    const rows = Math.max(1, mostOf(next.values()));
    lanes.push({ name, row, rows });
    row += rows;
    yield;
  }
  return { rows: row, boxes: placed, lanes };
}
/** The longest way from who is called by nobody, without links that lead back to who is on the way. */
function* columnsOf(boxes: readonly LaneBox[], links: readonly LaneLink[]): Generator<void, Map<string, number>> {
  const out = new Map<string, string[]>();
  const incoming = new Map<string, number>();
  for (const { from, to } of links) {
    const own = out.get(from) ?? [];
    own.push(to);
    out.set(from, own);
    incoming.set(to, (incoming.get(to) ?? 0) + 1);
  }
  for (const own of out.values()) own.sort(compare);
  yield;
  const keys = boxes
    .map(({ key }) => key)
    .sort((a, b) => (incoming.get(a) ?? 0) - (incoming.get(b) ?? 0) || compare(a, b));
  // in the order in which they are left for good, the last one first: links that go against it lead back
  const left: string[] = [];
  const state = new Map<string, 'on the way' | 'left'>();
  for (const start of keys) {
    if (state.has(start)) continue;
    const way: { key: string; next: number }[] = [{ key: start, next: 0 }];
    state.set(start, 'on the way');
    while (way.length > 0) {
      const last = way.at(-1)!; // it is not empty
      const to = out.get(last.key)?.[last.next++];
      if (to === undefined) {
        state.set(last.key, 'left');
        left.push(last.key);
        way.pop();
        if (left.length % AT_ONCE === 0) yield;
      } else if (!state.has(to)) {
        state.set(to, 'on the way');
        way.push({ key: to, next: 0 });
      }
    }
  }
  const place = new Map(left.reverse().map((key, i) => [key, i]));
  const columns = new Map<string, number>();
  for (const key of left) {
    const own = columns.get(key) ?? 0;
    columns.set(key, own);
    if (columns.size % AT_ONCE === 0) yield;
    for (const to of out.get(key) ?? [])
      if (place.get(to)! > place.get(key)!) columns.set(to, Math.max(columns.get(to) ?? 0, own + 1)); // all are placed
  }
  return columns;
}
