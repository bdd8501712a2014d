import {
  appendRollUps,
  decodeChunkInto,
  joinRollUps,
  type RollUp,
  type Samples,
  samplesOfRollUp,
} from '@zetopsis/core/samples';
import type pg from 'pg';
import { type Resolution, TIERS } from '../tiers.ts';
import { eachChunk, readRollUps } from './rows.ts';

const WANTED = ['first', 'last', 'increase'] as const;

export interface WindowOf {
  readonly endpoint: number;
  readonly ids: Int32Array;
  /** cumulative[i] is 1 where ids[i] counts up. */
  readonly cumulative: Uint8Array;
  readonly from: number;
  readonly to: number;
  readonly resolution: Resolution;
}
/** Samples of ids[i]: times[starts[i] .. starts[i + 1]) and values likewise, oldest first. */
export interface WindowRead {
  readonly starts: Int32Array;
  readonly times: Float64Array;
  readonly values: Float64Array;
}

/** What is packed of a window. */
export function readWindow(client: pg.Client, window: WindowOf): Promise<WindowRead> {
  return window.resolution === 'samples' ? samplesIn(client, window) : rolledIn(client, window);
}

/** Room for so many samples of each series. */
function roomFor(ids: Int32Array, counts: ReadonlyMap<number, number>): WindowRead {
  const starts = new Int32Array(ids.length + 1);
  ids.forEach((id, i) => {
    starts[i + 1] = starts[i]! + (counts.get(id) ?? 0);
  });
  return { starts, times: new Float64Array(starts[ids.length]!), values: new Float64Array(starts[ids.length]!) };
}

/** Each chunk is unpacked right where it belongs. */
async function samplesIn(client: pg.Client, { endpoint, ids, from, to }: WindowOf): Promise<WindowRead> {
  const chunks: { id: number; samples: number; payload: Uint8Array }[] = [];
  const counts = new Map<number, number>();
  await eachChunk({
    client,
    endpoint,
    ids,
    from,
    to,
    take: (id, _from, samples, payload) => {
      chunks.push({ id, samples, payload });
      counts.set(id, (counts.get(id) ?? 0) + samples);
    },
  });
  const read = roomFor(ids, counts);
  const next = new Map(Array.from(ids, (id, i) => [id, read.starts[i]!]));
  for (const { id, samples, payload } of chunks) {
    const at = next.get(id)!; // only what was asked for comes
    decodeChunkInto(payload, read.times.subarray(at, at + samples), read.values.subarray(at, at + samples));
    next.set(id, at + samples);
  }
  return read;
}

/** Hours as far as days are joined; what is newer from five minutes, in buckets of an hour all the same. */
async function rolledIn(client: pg.Client, window: WindowOf): Promise<WindowRead> {
  const { endpoint, ids, cumulative, from, to, resolution } = window;
  const tier = resolution === 'hour' ? 'hour' : 'five';
  const { rows } = await client.query(`select joined_ms from packed where endpoint_id = $1`, [endpoint]);
  const joinedUntil = tier === 'hour' ? Number(rows[0]?.joined_ms ?? 0) : 0;
  const parts =
    from < joinedUntil
      ? await readRollUps({
          client,
          tier: 'hour',
          endpoint,
          ids,
          from,
          to: Math.min(to, joinedUntil - 1),
          wanted: WANTED,
        })
      : new Map<number, RollUp[]>();
  const fineFrom = Math.max(from, joinedUntil);
  if (fineFrom <= to)
    for (const [id, fine] of await readRollUps({
      client,
      tier: 'five',
      endpoint,
      ids,
      from: fineFrom,
      to,
      wanted: WANTED,
    })) {
      const own = parts.get(id) ?? [];
      // a joined day ends with an hour, so the finer ones begin one; columns that were not wanted stay without numbers
      if (tier === 'five') own.push(...fine);
      else own.push(joinRollUps(fine, TIERS.hour.bucket));
      parts.set(id, own);
    }
  const samples = new Map<number, Samples>();
  ids.forEach((id, i) => {
    const own = parts.get(id);
    if (own) samples.set(id, samplesOfRollUp(appendRollUps(own), TIERS[tier].bucket, cumulative[i] === 1));
  });
  const read = roomFor(ids, new Map([...samples].map(([id, { times }]) => [id, times.length])));
  ids.forEach((id, i) => {
    const own = samples.get(id);
    if (!own) return;
    read.times.set(own.times, read.starts[i]);
    read.values.set(own.values, read.starts[i]);
  });
  return read;
}
