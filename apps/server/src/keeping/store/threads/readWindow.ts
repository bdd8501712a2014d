import { joinRollUps, type RollUp, type SeriesRead, SeriesReader } from '@zetopsis/core/samples';
import type pg from 'pg';
import { type Resolution, TIERS } from '../tiers.ts';
import { eachChunk, eachRollUp, readRollUps } from './rows.ts';

const WANTED = ['first', 'last', 'increase'] as const;
const OF_GAUGES = ['first', 'last'] as const;

export interface WindowOf {
  readonly endpoint: number;
  /** Ascending. */
  readonly ids: Int32Array;
  /** cumulative[i] is 1 where ids[i] counts up. */
  readonly cumulative: Uint8Array;
  readonly from: number;
  readonly to: number;
  readonly resolution: Resolution;
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

/** Hours as far as days are joined; what is newer from five minutes, in buckets of an hour all the same. */
async function rolledIn(client: pg.Client, window: WindowOf): Promise<WindowRead> {
  const { endpoint, ids, cumulative, from, to, resolution } = window;
  const tier = resolution === 'hour' ? 'hour' : 'five';
  const { rows } = await client.query(`select joined_ms from packed where endpoint_id = $1`, [endpoint]);
  const joinedUntil = tier === 'hour' ? Number(rows[0]?.joined_ms ?? 0) : Number.POSITIVE_INFINITY;
  // a joined day ends with an hour, so the finer ones begin one
  const fineFrom = Math.max(from, joinedUntil);
  const fine: ReadonlyMap<number, RollUp[]> =
    fineFrom <= to
      ? await readRollUps({ client, tier: 'five', endpoint, ids, from: fineFrom, to, wanted: WANTED })
      : new Map();
  const { bucket } = TIERS[tier];
  const places = placesOf(ids);
  const reader = new SeriesReader(ids.length);
  let next = 0;
  /** What is newer of those that are over. */
  const newerUntil = (place: number) => {
    for (; next < place; next++) {
      const parts = fine.get(ids[next]!);
      if (!parts) continue;
      reader.begin(next);
      reader.rolled(joinRollUps(parts, bucket), bucket, cumulative[next] === 1);
    }
  };
  if (from < joinedUntil) {
    const counts = cumulative.includes(1);
    const rowsOf = { client, tier, endpoint, ids, from, to: Math.min(to, joinedUntil - 1) } as const;
    await eachRollUp(rowsOf, counts ? WANTED : OF_GAUGES, (id, row) => {
      const place = places.get(id)!; // only what was asked for comes
      newerUntil(place);
      reader.begin(place);
      // never null, but for what follows from the others
      const [buckets, first] = [row.view()!, row.view()!];
      const last = row.view();
      reader.row({ buckets, first, last, increase: counts ? row.view() : null }, bucket, cumulative[place] === 1);
    });
  }
  newerUntil(ids.length);
  return reader.finish();
}
