import {
  AGGREGATES,
  type Aggregate,
  columnsFor,
  decodeChunk,
  encodeChunk,
  packRollUp,
  type RollUp,
  type Samples,
  unpackRollUp,
} from '@zetopsis/core/samples';
import type pg from 'pg';
import { CHUNK_SAMPLES, CHUNK_SPAN, TIERS, type Tier } from '../tiers.ts';
import { type CopiedRow, CopyRows, copyOut, numbers } from './copy.ts';
import type { Partitions } from './partitions.ts';

/** One endpoint, or of each series that is asked for its own. */
export type OfEndpoints = number | Int32Array;
function rowsIn(table: string, endpoint: OfEndpoints, ids: Iterable<number> | null): string {
  if (typeof endpoint === 'number') {
    const some = ids === null ? '' : `and series_id = any('{${numbers(ids)}}')`;
    return `${table} where endpoint_id = ${numbers([endpoint])} ${some}`;
  }
  const lists = `'{${numbers(endpoint)}}'::int[], '{${numbers(ids ?? [])}}'::int[]`;
  return `unnest(${lists}) as asked (e, s) join ${table} on endpoint_id = e and series_id = s where true`;
}

/** Chunks that overlap a stretch of time, series by series, oldest first. */
export async function eachChunk({
  client,
  endpoint,
  ids,
  from,
  to,
  take,
}: {
  readonly client: pg.Client;
  readonly endpoint: OfEndpoints;
  readonly ids: Iterable<number> | null;
  readonly from: number;
  readonly to: number;
  /** The payload is let go of afterwards. */
  readonly take: (id: number, payload: Uint8Array, from: number) => void;
}): Promise<void> {
  await copyOut(
    client,
    `select series_id, from_ms, payload from ${rowsIn('chunk', endpoint, ids)}
      and from_ms > ${numbers([from - CHUNK_SPAN])} and from_ms <= ${numbers([to])}
      and to_ms >= ${numbers([from])} order by series_id, from_ms`,
    (row) => {
      const [id, at] = [row.int(), row.big()];
      take(id, row.view()!, at); // never null
    },
  );
}
export async function readChunks({
  client,
  endpoint,
  ids,
  from,
  to,
}: {
  readonly client: pg.Client;
  readonly endpoint: number;
  readonly ids: Iterable<number> | null;
  readonly from: number;
  readonly to: number;
}): Promise<Map<number, { from: number; samples: Samples }[]>> {
  const found = new Map<number, { from: number; samples: Samples }[]>();
  await eachChunk({
    client,
    endpoint,
    ids,
    from,
    to,
    take: (id, payload, at) => {
      const chunk = { from: at, samples: decodeChunk(payload) };
      const list = found.get(id);
      if (list) list.push(chunk);
      else found.set(id, [chunk]);
    },
  });
  return found;
}

export class ChunkWriter {
  private readonly rows = new CopyRows();
  private readonly starts = new Set<number>();
  samples = 0;
  constructor(private readonly endpoint: number) {}

  /** Cuts a series' samples into chunks of the right size. */
  add(id: number, { times, values }: Samples): void {
    for (let start = 0; start < times.length; ) {
      let end = start;
      while (end < times.length && end - start < CHUNK_SAMPLES && times[end]! - times[start]! < CHUNK_SPAN) end++;
      const part = { times: times.slice(start, end), values: values.slice(start, end) };
      this.rows.begin(6);
      this.rows.int(this.endpoint);
      this.rows.int(id);
      this.rows.big(part.times[0]!);
      this.rows.big(part.times[end - start - 1]!);
      this.rows.int(end - start);
      this.rows.bytes(encodeChunk(part));
      this.starts.add(part.times[0]!);
      this.samples += end - start;
      start = end;
    }
  }
  async write(client: pg.Client, partitions: Partitions): Promise<void> {
    await partitions.ensure(client, 'chunk', this.starts);
    await this.rows.into(client, 'chunk', ['endpoint_id', 'series_id', 'from_ms', 'to_ms', 'samples', 'payload']);
  }
}

const startOfRow = (tier: Tier, time: number): number => Math.floor(time / TIERS[tier].row) * TIERS[tier].row;

/** `from` and `to` are of where buckets start. */
interface RollUpsOf {
  readonly client: pg.Client;
  readonly tier: Tier;
  readonly endpoint: OfEndpoints;
  /** Null: all. */
  readonly ids: Iterable<number> | null;
  readonly from: number;
  readonly to: number;
}

/** `first`, where a counter's last values do not tell its growth by themselves (see `firstOfSteady`). */
export const FIRST_OF_UNSTEADY = 'case when last is not null and get_byte(increase, 0) = 3 then null else first end';

/** Roll-up rows that overlap a stretch of time, series by series, oldest first. */
export async function eachRollUp(
  { client, tier, endpoint, ids, from, to }: RollUpsOf,
  columns: readonly (Aggregate | typeof FIRST_OF_UNSTEADY)[],
  take: (id: number, row: CopiedRow) => void,
): Promise<void> {
  await copyOut(
    client,
    `select series_id, buckets, ${columns.join(', ')} from ${rowsIn(TIERS[tier].table, endpoint, ids)}
      and from_ms >= ${numbers([startOfRow(tier, from)])} and from_ms <= ${numbers([to])}
      and to_ms >= ${numbers([from])} order by series_id, from_ms`,
    (row) => take(row.int(), row),
  );
}
/** The same as they are joined, by series. */
export async function readRollUps({
  wanted = AGGREGATES,
  ...of
}: RollUpsOf & { readonly wanted?: readonly Aggregate[] }): Promise<Map<number, RollUp[]>> {
  const columns = columnsFor(wanted);
  const found = new Map<number, RollUp[]>();
  await eachRollUp(of, columns, (id, row) => {
    const buckets = row.bytes()!; // never null
    const packed = Object.fromEntries(columns.map((name) => [name, row.bytes()]));
    const part = unpackRollUp({ buckets, ...packed }, wanted);
    const list = found.get(id);
    if (list) list.push(part);
    else found.set(id, [part]);
  });
  return found;
}

const partOf = ({ starts, columns }: RollUp, first: number, next: number): RollUp => ({
  starts: starts.subarray(first, next),
  columns: Object.fromEntries(
    AGGREGATES.map((name) => [name, columns[name].subarray(first, next)]),
  ) as RollUp['columns'], // every aggregate stands in the list
});

export class RollUpWriter {
  private readonly rows = new CopyRows();
  private readonly starts = new Set<number>();
  constructor(
    private readonly tier: Tier,
    private readonly endpoint: number,
  ) {}
  /** Cuts it where rows end. */
  add(id: number, rollUp: RollUp): void {
    const { starts } = rollUp;
    for (let first = 0; first < starts.length; ) {
      const end = startOfRow(this.tier, starts[first]!) + TIERS[this.tier].row;
      let next = first;
      while (next < starts.length && starts[next]! < end) next++;
      const packed = packRollUp(first === 0 && next === starts.length ? rollUp : partOf(rollUp, first, next));
      this.rows.begin(5 + AGGREGATES.length);
      this.rows.int(this.endpoint);
      this.rows.int(id);
      this.rows.big(starts[first]!);
      this.rows.big(starts[next - 1]! + TIERS[this.tier].bucket - 1);
      this.rows.bytes(packed.buckets);
      for (const name of AGGREGATES) this.rows.bytes(packed[name]);
      this.starts.add(starts[first]!);
      first = next;
    }
  }
  async write(client: pg.Client, partitions: Partitions): Promise<void> {
    const { table } = TIERS[this.tier];
    await partitions.ensure(client, table, this.starts);
    await this.rows.into(client, table, ['endpoint_id', 'series_id', 'from_ms', 'to_ms', 'buckets', ...AGGREGATES]);
  }
}

/** Takes away the roll-up rows of these series that overlap a stretch of time. */
export async function removeRollUps({
  client,
  tier,
  endpoint,
  ids,
  from,
  to,
}: {
  readonly client: pg.Client;
  readonly tier: Tier;
  readonly endpoint: number;
  readonly ids: readonly number[] | null;
  readonly from: number;
  readonly to: number;
}): Promise<void> {
  await client.query(
    `delete from ${TIERS[tier].table} where endpoint_id = $1 and ($2::int[] is null or series_id = any($2))
      and from_ms >= $3 and from_ms <= $5 and to_ms >= $4`,
    [endpoint, ids, startOfRow(tier, from), from, to],
  );
}
