import { joinRollUps, type RollUp, rollUp, sliceRollUp } from '@zetopsis/core/samples';
import { DAY } from '@zetopsis/core/units';
import type pg from 'pg';
import { FIVE } from '../tiers.ts';
import { redoHours, withBuckets } from './merge.ts';
import { stateOf } from './pack.ts';
import type { Partitions } from './partitions.ts';
import { ChunkWriter, RollUpWriter, readChunks, readRollUps, removeRollUps } from './rows.ts';

const LEAST_SAMPLES = 240;

/** Makes one row a series of a day's five minutes, rolls its hours up, and joins chunks that are short. */
export async function joinDay({
  client,
  partitions,
  endpoint,
  day,
  until,
}: {
  readonly client: pg.Client;
  readonly partitions: Partitions;
  readonly endpoint: number;
  readonly day: number;
  /** Nothing comes to what is before it any more. */
  readonly until: number;
}): Promise<void> {
  const state = await stateOf(client, endpoint);
  const from = day * DAY;
  const to = from + DAY - 1;
  if (state.joined > from || Math.max(state.until, until) < to) return;
  // days from before there were roll-ups get theirs now
  const fives =
    state.joined === 0
      ? await rolledAnew({ client, endpoint, from, to })
      : await readRollUps({ client, tier: 'five', endpoint, ids: null, from, to });
  const several = [...fives].filter(([, parts]) => parts.length > 1 || state.joined === 0);
  if (several.length > 0) {
    const writer = new RollUpWriter('five', endpoint);
    for (const [id, parts] of several) writer.add(id, joinRollUps(parts, FIVE));
    await removeRollUps({ client, tier: 'five', endpoint, ids: several.map(([id]) => id), from, to });
    await writer.write(client, partitions);
  }
  await redoHours({ client, partitions, endpoint, ids: null, from, to });
  await joinChunks({ client, partitions, endpoint, from, to });
  await client.query(`update packed set joined_ms = $2 where endpoint_id = $1`, [endpoint, to + 1]);
}

/** From the samples themselves, as far as there are any; else what is rolled up already. */
async function rolledAnew({
  client,
  endpoint,
  from,
  to,
}: {
  readonly client: pg.Client;
  readonly endpoint: number;
  readonly from: number;
  readonly to: number;
}): Promise<Map<number, RollUp[]>> {
  const made = await readRollUps({ client, tier: 'five', endpoint, ids: null, from, to });
  for (const [id, chunks] of await readChunks({ client, endpoint, ids: null, from, to: to + 1 })) {
    const rolled = joinRollUps(
      chunks.map(({ samples }) => rollUp(samples, FIVE)),
      FIVE,
    );
    const fresh = sliceRollUp(rolled, from, to + 1);
    made.set(id, [withBuckets(joinRollUps(made.get(id) ?? [], FIVE), fresh, true)]);
  }
  return made;
}

/** The newest day before a moment that there are samples of; answers its beginning, 0 where there is none. */
export async function rollDayAnew({
  client,
  partitions,
  endpoint,
  before,
}: {
  readonly client: pg.Client;
  readonly partitions: Partitions;
  readonly endpoint: number;
  readonly before: number;
}): Promise<{ readonly downTo: number }> {
  const { rows } = await client.query(
    `select coalesce(max(to_ms), 0) as newest from chunk where endpoint_id = $1 and from_ms < $2`,
    [endpoint, before],
  );
  const from = Math.floor(Math.min(Number(rows[0].newest), before - 1) / DAY) * DAY;
  const to = from + DAY - 1;
  if (from > 0) {
    const fives = await rolledAnew({ client, endpoint, from, to });
    const writer = new RollUpWriter('five', endpoint);
    for (const [id, parts] of fives) writer.add(id, joinRollUps(parts, FIVE));
    await removeRollUps({ client, tier: 'five', endpoint, ids: null, from, to });
    await writer.write(client, partitions);
    await redoHours({ client, partitions, endpoint, ids: null, from, to });
  }
  await client.query(`update packed set anew_ms = $2 where endpoint_id = $1`, [endpoint, from]);
  return { downTo: from };
}

async function joinChunks({
  client,
  partitions,
  endpoint,
  from,
  to,
}: {
  readonly client: pg.Client;
  readonly partitions: Partitions;
  readonly endpoint: number;
  readonly from: number;
  readonly to: number;
}) {
  const { rows } = await client.query(
    `select series_id from chunk where endpoint_id = $1 and from_ms >= $2 and from_ms <= $3
      group by series_id having count(*) > 3 and avg(samples) < $4`,
    [endpoint, from, to, LEAST_SAMPLES],
  );
  const ids = (rows as { series_id: number }[]).map(({ series_id }) => series_id);
  if (ids.length === 0) return;
  const chunks = new ChunkWriter(endpoint);
  for (const [id, parts] of await readChunks({ client, endpoint, ids, from, to })) {
    const own = parts.filter((part) => part.from >= from);
    const length = own.reduce((sum, { samples }) => sum + samples.times.length, 0);
    const times = new Float64Array(length);
    const values = new Float64Array(length);
    let at = 0;
    for (const { samples } of own) {
      times.set(samples.times, at);
      values.set(samples.values, at);
      at += samples.times.length;
    }
    chunks.add(id, { times, values });
  }
  await client.query(
    `delete from chunk where endpoint_id = $1 and series_id = any($2) and from_ms >= $3 and from_ms <= $4`,
    [endpoint, ids, from, to],
  );
  await chunks.write(client, partitions);
}
