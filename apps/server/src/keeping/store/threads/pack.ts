import {
  decodeFrame,
  EdgeBuffer,
  END_MARKER,
  type Merged,
  mergeSamples,
  rollUp,
  type Samples,
} from '@zetopsis/core/samples';
import type pg from 'pg';
import { CHUNK_SPAN, FIVE } from '../tiers.ts';
import { copyOut, numbers } from './copy.ts';
import { mergeIn } from './merge.ts';
import type { Partitions } from './partitions.ts';
import { ChunkWriter, RollUpWriter } from './rows.ts';

interface Row {
  readonly at: number;
  readonly layout: number;
  readonly payload: Uint8Array;
}
export interface Packed extends Merged {
  /** Readings up to here are in chunks. */
  readonly until: number;
  readonly readings: number;
}
interface State {
  readonly until: number;
  readonly joined: number;
}

export async function stateOf(client: pg.Client, endpoint: number): Promise<State> {
  const { rows } = await client.query(
    `insert into packed (endpoint_id, until_ms, joined_ms) values ($1, 0, 0)
      on conflict (endpoint_id) do update set until_ms = packed.until_ms returning until_ms, joined_ms`,
    [endpoint],
  );
  return { until: Number(rows[0].until_ms), joined: Number(rows[0].joined_ms) };
}

async function newestChunk(client: pg.Client, endpoint: number, until: number): Promise<number> {
  const { rows } = await client.query(
    `select coalesce(max(to_ms), 0) as newest from chunk where endpoint_id = $1 and from_ms > $2 and to_ms > $3`,
    [endpoint, until - CHUNK_SPAN, until],
  );
  return Number(rows[0].newest);
}

async function journalRows({
  client,
  table,
  endpoint,
  and,
}: {
  readonly client: pg.Client;
  readonly table: string;
  readonly endpoint: number;
  readonly and: string;
}): Promise<Row[]> {
  const rows: Row[] = [];
  await copyOut(
    client,
    `select at_ms, layout_id, payload from ${table} where endpoint_id = ${numbers([endpoint])} ${and} order by at_ms`,
    (row) => rows.push({ at: row.big(), layout: row.int(), payload: row.bytes()! }), // never null
  );
  return rows;
}

async function layoutsOf(client: pg.Client, rows: readonly Row[]): Promise<Map<number, Int32Array>> {
  const layouts = new Map<number, Int32Array>();
  const ids = new Set(rows.map(({ layout }) => layout));
  if (ids.size === 0) return layouts;
  const { rows: found } = await client.query(`select id, series_ids from layout where id = any($1)`, [[...ids]]);
  for (const { id, series_ids } of found as { id: number; series_ids: number[] }[])
    layouts.set(id, Int32Array.from(series_ids));
  return layouts;
}

/** Readings turned from moments with all series into series with all moments. */
function bySeries(rows: readonly Row[], layouts: ReadonlyMap<number, Int32Array>): Map<number, Samples> {
  const frames = rows.map(({ payload }) => decodeFrame(payload));
  const turn = [...layouts.keys()];
  // places.get(id)[k]: where the series stands in layout turn[k], -1 where it does not
  const places = new Map<number, Int32Array>();
  turn.forEach((key, k) => {
    layouts.get(key)!.forEach((id, place) => {
      let list = places.get(id);
      if (!list) {
        list = new Int32Array(turn.length).fill(-1);
        places.set(id, list);
      }
      list[k] = place;
    });
  });
  const layoutOf = rows.map(({ layout }) => turn.indexOf(layout));
  const ended = new Map<number, Set<number>>();
  frames.forEach((frame, r) => {
    for (const id of frame.ended) {
      if (!places.has(id)) places.set(id, new Int32Array(turn.length).fill(-1));
      const set = ended.get(id) ?? new Set();
      ended.set(id, set.add(r));
    }
  });
  const timed = frames.some(({ times }) => times !== null);
  const series = new Map<number, Samples>();
  for (const [id, list] of places) {
    const ends = ended.get(id);
    if (timed) {
      const buffer = new EdgeBuffer();
      rows.forEach(({ at }, r) => {
        const place = list[layoutOf[r]!]!;
        const { values, times } = frames[r]!;
        if (place >= 0) buffer.add(times?.[place] ?? at, values[place]!);
        else if (ends?.has(r)) buffer.add(at, END_MARKER);
      });
      series.set(id, buffer.series);
      continue;
    }
    const times = new Float64Array(rows.length);
    const values = new Float64Array(rows.length);
    let count = 0;
    for (let r = 0; r < rows.length; r++) {
      const place = list[layoutOf[r]!]!;
      if (place >= 0) values[count] = frames[r]!.values[place]!;
      else if (ends?.has(r)) values[count] = END_MARKER;
      else continue;
      times[count++] = rows[r]!.at;
    }
    series.set(id, { times: times.subarray(0, count), values: values.subarray(0, count) });
  }
  return series;
}

/**
 * Packs an endpoint's readings up to a moment: chunks and roll-ups in, in one transaction with saying so. What came late
 * is put among what is packed. `until` is the end of a bucket, so that no bucket is made in two parts.
 */
export async function packEndpoint({
  client,
  partitions,
  endpoint,
  until,
}: {
  readonly client: pg.Client;
  readonly partitions: Partitions;
  readonly endpoint: number;
  readonly until: number;
}): Promise<Packed> {
  const state = await stateOf(client, endpoint);
  const to = Math.max(state.until, until);
  // an import may have put chunks where readings were still to be packed
  const border = Math.max(state.until, await newestChunk(client, endpoint, state.until));
  const rows = await journalRows({
    client,
    table: 'journal',
    endpoint,
    and: `and at_ms > ${numbers([state.until])} and at_ms <= ${numbers([to])}`,
  });
  const late = await journalRows({ client, table: 'journal_late', endpoint, and: `and at_ms <= ${numbers([to])}` });
  const chunks = new ChunkWriter(endpoint);
  const rolled = new RollUpWriter('five', endpoint);
  const behind = late.length > 0 ? bySeries(late, await layoutsOf(client, late)) : new Map<number, Samples>();
  for (const [id, { times, values }] of rows.length > 0 ? bySeries(rows, await layoutsOf(client, rows)) : []) {
    // samples with times of their own may lie in what is packed as well
    let first = 0;
    while (first < times.length && times[first]! <= border) first++;
    if (first > 0)
      behind.set(
        id,
        mergeSamples(behind.get(id) ?? { times: [], values: [] }, {
          times: times.slice(0, first),
          values: values.slice(0, first),
        }).samples,
      );
    if (first === times.length) continue;
    const own = { times: times.slice(first), values: values.slice(first) };
    chunks.add(id, own);
    rolled.add(id, rollUp(own, FIVE));
  }
  await chunks.write(client, partitions);
  await rolled.write(client, partitions);
  // what came late is put in last: it may fall into what was packed just now
  const merged = await mergeIn({ client, partitions, endpoint, series: behind, joinedUntil: state.joined });
  if (late.length > 0)
    await client.query(`delete from journal_late where endpoint_id = $1 and at_ms <= $2`, [endpoint, to]);
  await client.query(`update packed set until_ms = $2 where endpoint_id = $1`, [endpoint, to]);
  return {
    until: to,
    readings: rows.length + late.length,
    added: chunks.samples + merged.added,
    same: merged.same,
    other: merged.other,
  };
}

/** Samples of any time into an endpoint's past, in one transaction. */
export async function mergeEndpoint({
  client,
  partitions,
  endpoint,
  series,
}: {
  readonly client: pg.Client;
  readonly partitions: Partitions;
  readonly endpoint: number;
  readonly series: ReadonlyMap<number, Samples>;
}): Promise<Merged> {
  const state = await stateOf(client, endpoint);
  return mergeIn({ client, partitions, endpoint, series, joinedUntil: state.joined });
}
