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

/**
 * Lays boxes out in lanes, callers left: the column is the longest way from who is called by nobody (links that lead back in a circle do not
 * count), the row stands near those of whom it talks to. The same boxes and links stand in the same places.
 */
export function inLanes(boxes: readonly LaneBox[], links: readonly LaneLink[]): LaidOut {
  const known = new Set(boxes.map(({ key }) => key));
  const own = links.filter(({ from, to }) => from !== to && known.has(from) && known.has(to));
  const columns = columnsOf(boxes, own);
  const neighbours = new Map<string, string[]>(boxes.map(({ key }) => [key, []]));
  for (const { from, to } of own) {
    neighbours.get(from)!.push(to); // each box has its list
    neighbours.get(to)!.push(from);
  }
  const lanes = new Map<string, LaneBox[]>();
  for (const box of [...boxes].sort((a, b) => compare(a.key, b.key))) {
    const lane = lanes.get(box.lane) ?? [];
    lane.push(box);
    lanes.set(box.lane, lane);
  }
  const mean = (values: readonly number[]) => values.reduce((sum, one) => sum + one, 0) / Math.max(1, values.length);
  // lanes of those who call first stand above; those that talk to each other, near each other
  let order = [...lanes].sort(
    ([a, ours], [b, theirs]) =>
      mean(ours.map(({ key }) => columns.get(key)!)) - mean(theirs.map(({ key }) => columns.get(key)!)) ||
      compare(a, b), // each has a column
  );
  let placed = rowsOf(order, columns, () => 0);
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    const before = placed;
    const pull = (key: string) => {
      const rows = neighbours.get(key)!.map((other) => before.boxes.get(other)!.row); // as above
      return rows.length === 0 ? before.boxes.get(key)!.row : mean(rows);
    };
    const weights = new Map(order.map(([name, own_]) => [name, mean(own_.map(({ key }) => pull(key)))]));
    if (sweep < SWEEPS / 2) order = [...order].sort(([a], [b]) => weights.get(a)! - weights.get(b)! || compare(a, b));
    placed = rowsOf(order, columns, pull);
  }
  return { columns: Math.max(0, ...columns.values()) + (boxes.length > 0 ? 1 : 0), ...placed };
}
const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

/** Rows of each lane by itself: those of one column stand below each other, by where they are pulled. */
function rowsOf(
  order: readonly (readonly [string, readonly LaneBox[]])[],
  columns: ReadonlyMap<string, number>,
  pull: (key: string) => number,
): Pick<LaidOut, 'rows' | 'boxes' | 'lanes'> {
  const placed = new Map<string, Placed>();
  const lanes: { name: string; row: number; rows: number }[] = [];
  let row = 0;
  for (const [name, boxes] of order) {
    const next = new Map<number, number>();
    const sorted = boxes
      .map(({ key }) => ({ key, at: pull(key) }))
      .sort((a, b) => a.at - b.at || compare(a.key, b.key));
    for (const { key } of sorted) {
      const column = columns.get(key)!; // each has one
      const at = next.get(column) ?? 0;
      next.set(column, at + 1);
      placed.set(key, { column, row: row + at });
    }
    const rows = Math.max(1, ...next.values());
    lanes.push({ name, row, rows });
    row += rows;
  }
  return { rows: row, boxes: placed, lanes };
}
/** The longest way from who is called by nobody, without links that lead back to who is on the way. */
function columnsOf(boxes: readonly LaneBox[], links: readonly LaneLink[]): Map<string, number> {
  const out = new Map<string, string[]>();
  const incoming = new Map<string, number>();
  for (const { from, to } of links) {
    const own = out.get(from) ?? [];
    own.push(to);
    out.set(from, own);
    incoming.set(to, (incoming.get(to) ?? 0) + 1);
  }
  for (const own of out.values()) own.sort(compare);
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
    for (const to of out.get(key) ?? [])
      if (place.get(to)! > place.get(key)!) columns.set(to, Math.max(columns.get(to) ?? 0, own + 1)); // all are placed
  }
  return columns;
}
