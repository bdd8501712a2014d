import type pg from 'pg';
import { PARTITIONED, type PartitionedTable } from '../tiers.ts';

export interface Partition {
  readonly name: string;
  readonly from: number;
  readonly to: number;
}

/** Makes the partitions that samples of some time need. Knows those it has seen. */
export class Partitions {
  private readonly known = new Set<string>();

  async ensure(client: Pick<pg.Client, 'query'>, table: PartitionedTable, times: Iterable<number>): Promise<void> {
    const { period, settings } = PARTITIONED[table];
    const wanted = new Set<number>();
    for (const time of times) wanted.add(Math.floor(time / period));
    for (const index of wanted) {
      const name = `${table}_p${index}`;
      if (!Number.isSafeInteger(index) || this.known.has(name)) continue;
      const { rows } = await client.query(`select to_regclass($1) is not null as there`, [name]);
      if (!rows[0].there)
        await client.query(
          `create table if not exists ${name} partition of ${table} for values from (${index * period}) to (${(index + 1) * period})${settings}`,
        );
      this.known.add(name);
    }
  }
  /** Some may be gone, or never have come to be: whoever made them may have failed. */
  forget(): void {
    this.known.clear();
  }
}

/** Oldest first. The names are ours: table, and number of the period. */
export async function partitionsOf(client: Pick<pg.Client, 'query'>, table: PartitionedTable): Promise<Partition[]> {
  const { rows } = await client.query(
    `select c.relname as name from pg_inherits i join pg_class c on c.oid = i.inhrelid where i.inhparent = $1::regclass`,
    [table],
  );
  const { period } = PARTITIONED[table];
  return (rows as { name: string }[])
    .map(({ name }) => {
      const index = Number(name.slice(table.length + 2));
      return { name, from: index * period, to: (index + 1) * period };
    })
    .filter(({ from }) => Number.isSafeInteger(from))
    .sort((a, b) => a.from - b.from);
}
