import {
  type Beside,
  columnsOfRows,
  joinRollUps,
  type RollUp,
  type SeriesRead,
  SeriesReader,
} from '@zetopsis/core/samples';
import type pg from 'pg';
import { type Resolution, TIERS } from '../tiers.ts';
import { eachChunk, eachRollUp, FIRST_OF_UNSTEADY, type OfEndpoints, readRollUps } from './rows.ts';

export interface WindowOf {
  /** Hours are read of one at a time. */
  readonly endpoint: OfEndpoints;
  /** Ascending. */
  readonly ids: Int32Array;
  /** cumulative[i] is 1 where ids[i] counts up. */
  readonly cumulative: Uint8Array;
  readonly from: number;
  readonly to: number;
  readonly resolution: Resolution;
  /** Wanted of roll-ups beside their last values or their growth. */
  readonly beside?: readonly Beside[];
}
/** Samples of ids[i]. */
export type WindowRead = SeriesRead;

/** What is packed of a window. */
export function readWindow(client: pg.Client, window: WindowOf): Promise<WindowRead> {
  return window.resolution === 'samples' ? samplesIn(client, window) : rolledIn(client, window);
}

/** Where each id stands in the list. */
const placesOf = (ids: Int32Array): ReadonlyMap<number, number> => new Map(Array.from(ids, (id, i) => [id, i]));

/** Each chunk is unpacked right where it belongs. */
async function samplesIn(client: pg.Client, { endpoint, ids, from, to }: WindowOf): Promise<WindowRead> {
  const places = placesOf(ids);
  const reader = new SeriesReader(ids.length);
  await eachChunk({
    client,
    endpoint,
    ids,
    from,
    to,
    take: (id, payload) => {
      reader.begin(places.get(id)!); // only what was asked for comes
      reader.chunk(payload);
    },
  });
  return reader.finish();
}

async function joinedOf(client: pg.Client, endpoint: OfEndpoints): Promise<number> {
  const { rows } = await client.query(`select joined_ms from packed where endpoint_id = $1`, [endpoint]);
  return Number(rows[0]?.joined_ms ?? 0);
}
/** Hours as far as days are joined; what is newer from five minutes, in buckets of an hour all the same. */
async function rolledIn(client: pg.Client, window: WindowOf): Promise<WindowRead> {
  const { endpoint, ids, cumulative, to, resolution, beside = [] } = window;
  // the bucket that ends where the window begins
  const from = window.from - 1;
  const tier = resolution === 'hour' ? 'hour' : 'five';
  const joinedUntil = tier === 'hour' ? await joinedOf(client, endpoint) : Number.POSITIVE_INFINITY;
  // a joined day ends with an hour, so the finer ones begin one
  const fineFrom = Math.max(from, joinedUntil);
  const fine: ReadonlyMap<number, RollUp[]> =
    fineFrom <= to
      ? await readRollUps({
          client,
          tier: 'five',
          endpoint,
          ids,
          from: fineFrom,
          to,
          wanted: ['first', 'last', 'increase', 'gap', ...beside],
        })
      : new Map();
  const { bucket } = TIERS[tier];
  const places = placesOf(ids);
  const reader = new SeriesReader(ids.length, beside);
  let next = 0;
  /** What is newer of those that are over. */
  const newerUntil = (place: number) => {
    for (; next < place; next++) {
      const parts = fine.get(ids[next]!);
      if (!parts) continue;
      reader.begin(next);
      reader.rolled(joinRollUps(parts, bucket, TIERS.five.bucket), bucket, cumulative[next] === 1);
    }
  };
  if (from < joinedUntil) {
    const columns = columnsOfRows(cumulative.includes(1), beside);
    const rowsOf = { client, tier, endpoint, ids, from, to: Math.min(to, joinedUntil - 1) } as const;
    const counters = !cumulative.includes(0) && beside.length === 0;
    const asked = columns.map((name) => (name === 'first' && counters ? FIRST_OF_UNSTEADY : name));
    await eachRollUp(rowsOf, asked, (id, row) => {
      const place = places.get(id)!; // only what was asked for comes
      newerUntil(place);
      reader.begin(place);
      const packed: Record<string, Uint8Array | null> = {};
      const buckets = row.view()!; // never null
      for (const name of columns) packed[name] = row.view();
      reader.row({ buckets, ...packed }, bucket, cumulative[place] === 1);
    });
  }
  newerUntil(ids.length);
  return reader.finish();
}
