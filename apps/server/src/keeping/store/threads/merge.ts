import {
  joinRollUps,
  type Merged,
  mergeSamples,
  type RollUp,
  rollUp,
  type Samples,
  sliceRollUp,
} from '@zetopsis/core/samples';
import { HOUR } from '@zetopsis/core/units';
import type pg from 'pg';
import { FIVE, TIERS } from '../tiers.ts';
import type { Partitions } from './partitions.ts';
import { ChunkWriter, RollUpWriter, readChunks, readRollUps, removeRollUps } from './rows.ts';

/**
 * Puts samples where chunks and roll-ups may be already: chunks that they fall into are written anew, and with them the
 * buckets of their time. `joinedUntil`: hours up to here are rolled up already, and are made anew as well.
 * Within the caller's transaction.
 */
export async function mergeIn({
  client,
  partitions,
  endpoint,
  series,
  joinedUntil,
}: {
  readonly client: pg.Client;
  readonly partitions: Partitions;
  readonly endpoint: number;
  readonly series: ReadonlyMap<number, Samples>;
  readonly joinedUntil: number;
}): Promise<Merged> {
  const ids = [...series.keys()].filter((id) => series.get(id)!.times.length > 0);
  if (ids.length === 0) return { added: 0, same: 0, other: 0 };
  const { from, to } = wholeBuckets(ids.map((id) => series.get(id)!));
  const known = await readChunks({ client, endpoint, ids, from, to: to + 1 });
  const fives = await readRollUps({ client, tier: 'five', endpoint, ids, from, to });
  const chunks = new ChunkWriter(endpoint);
  const rolled = new RollUpWriter('five', endpoint);
  const total = { added: 0, same: 0, other: 0 };
  const gone: { id: number; from: number }[] = [];
  const changed = new Map<number, RollUp>();
  for (const id of ids) {
    const before = known.get(id) ?? [];
    const whole = joined(before.map(({ samples }) => samples));
    const { samples, added, same, other } = mergeSamples(whole, series.get(id)!);
    total.added += added;
    total.same += same;
    total.other += other;
    if (added === 0) continue;
    for (const { from: at } of before) gone.push({ id, from: at });
    chunks.add(id, samples);
    const parts = fives.get(id) ?? [];
    const fresh = sliceRollUp(rollUp(samples, FIVE), from, to);
    const old = joinRollUps(parts, FIVE);
    changed.set(id, withBuckets(old, fresh, before.length > 0 || parts.length === 0));
  }
  if (total.added === 0) return total;
  const some = [...changed.keys()];
  if (gone.length > 0)
    await client.query(
      `delete from chunk using unnest($2::int[], $3::bigint[]) as gone (series_id, from_ms)
        where chunk.endpoint_id = $1 and chunk.series_id = gone.series_id and chunk.from_ms = gone.from_ms`,
      [endpoint, gone.map(({ id }) => id), gone.map(({ from: at }) => at)],
    );
  await removeRollUps({ client, tier: 'five', endpoint, ids: some, from, to });
  for (const [id, made] of changed) rolled.add(id, made);
  await chunks.write(client, partitions);
  await rolled.write(client, partitions);
  if (from < joinedUntil)
    await redoHours({ client, partitions, endpoint, ids: some, from, to: Math.min(to, joinedUntil - 1) });
  return total;
}

/** From the start of the first bucket to before the end of the last: buckets are made anew whole, so whatever else lies in them is needed. */
function wholeBuckets(some: readonly Samples[]): { from: number; to: number } {
  let first = Number.POSITIVE_INFINITY;
  let last = Number.NEGATIVE_INFINITY;
  for (const { times } of some) {
    first = Math.min(first, times[0]!);
    last = Math.max(last, times[times.length - 1]!);
  }
  return { from: (Math.ceil(first / FIVE) - 1) * FIVE, to: Math.ceil(last / FIVE) * FIVE - 1 };
}

function joined(parts: readonly Samples[]): Samples {
  if (parts.length === 1) return parts[0]!;
  let all: Samples = { times: [], values: [] };
  for (const part of parts) all = mergeSamples(all, part).samples;
  return all;
}

/** Buckets of `fresh` in the place of those of `old`; unless the samples behind the old ones are gone: then old ones stay. */
export function withBuckets(old: RollUp, fresh: RollUp, freshCounts: boolean): RollUp {
  const [lead, other] = freshCounts ? [fresh, old] : [old, fresh];
  const taken = new Set(lead.starts);
  const single = (rollUpOf: RollUp, i: number) => sliceRollUp(rollUpOf, rollUpOf.starts[i]!, rollUpOf.starts[i]! + 1);
  const parts = [
    ...Array.from(lead.starts, (start, i) => ({ start, part: single(lead, i) })),
    ...Array.from(other.starts, (start, i) => ({ start, part: single(other, i) })).filter(
      ({ start }) => !taken.has(start),
    ),
  ].sort((a, b) => a.start - b.start);
  return joinRollUps(
    parts.map(({ part }) => part),
    FIVE,
  );
}

/** The hours that overlap a stretch of time, from the five minutes within them. */
export async function redoHours({
  client,
  partitions,
  endpoint,
  ids,
  from,
  to,
}: {
  readonly client: pg.Client;
  readonly partitions: Partitions;
  readonly endpoint: number;
  readonly ids: readonly number[] | null;
  readonly from: number;
  readonly to: number;
}): Promise<void> {
  const start = Math.floor(from / HOUR) * HOUR;
  const end = Math.ceil((to + 1) / HOUR) * HOUR;
  const fives = await readRollUps({ client, tier: 'five', endpoint, ids, from: start, to: end - 1 });
  // whole rows, so that there stays one a series
  const { row } = TIERS.hour;
  const rowsFrom = Math.floor(start / row) * row;
  const rowsTo = Math.ceil(end / row) * row - 1;
  const hours = await readRollUps({
    client,
    tier: 'hour',
    endpoint,
    ids: [...fives.keys()],
    from: rowsFrom,
    to: rowsTo,
  });
  const writer = new RollUpWriter('hour', endpoint);
  for (const [id, parts] of fives) {
    const made = joinRollUps([sliceRollUp(joinRollUps(parts, FIVE), start, end)], HOUR, FIVE);
    const old = joinRollUps(hours.get(id) ?? [], HOUR);
    writer.add(
      id,
      joinRollUps(
        [sliceRollUp(old, Number.NEGATIVE_INFINITY, start), made, sliceRollUp(old, end, Number.POSITIVE_INFINITY)],
        HOUR,
      ),
    );
  }
  await removeRollUps({ client, tier: 'hour', endpoint, ids: [...fives.keys()], from: rowsFrom, to: rowsTo });
  await writer.write(client, partitions);
}
