import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import { DataSource, type EntityManager } from 'typeorm';

export interface EndpointRow {
  readonly id: number;
  readonly connectionId: string | null;
  readonly kind: 'node' | 'given' | 'found' | 'pushed' | 'own';
  readonly name: string;
  readonly retiredAt: Date | null;
  readonly historyUntil: number | null;
  readonly secretEncrypted: string;
}
export interface GapRow {
  readonly endpointId: number;
  readonly from: number;
  readonly to: number | null;
  readonly reason: string;
  /** Somebody wanted it so. */
  readonly planned: boolean;
}
/** What names an endpoint: its kind, its cluster, and its name among those. */
export interface EndpointName {
  readonly kind: EndpointRow['kind'];
  readonly connectionId: string | null;
  readonly name: string;
}
export interface HistoryRow {
  readonly endpointId: number;
  readonly at: number;
  readonly readings: number;
  readonly failures: number;
  readonly durationMs: number | null;
  readonly longestMs: number | null;
  readonly bytes: number | null;
  readonly series: number | null;
  readonly reason: string | null;
}

const NAMED = ['node', 'given', 'found', 'pushed'] as const;

/** Endpoints, the stretches in which they could not be read, and how their readings went. */
@Injectable()
export class EndpointStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  async all(): Promise<EndpointRow[]> {
    const rows: {
      id: number;
      connection_id: string | null;
      node: string | null;
      given: string | null;
      found: string | null;
      pushed: string | null;
      retired_at: Date | null;
      history_until_ms: number | null;
      secret_encrypted: string;
    }[] = await this.database.query(
      `select id, connection_id, node, given, found, pushed, retired_at, history_until_ms, secret_encrypted from endpoint order by id`,
    );
    return rows.map((row) => ({
      id: row.id,
      connectionId: row.connection_id,
      kind: NAMED.find((kind) => row[kind] !== null) ?? 'own',
      name: row.node ?? row.given ?? row.found ?? row.pushed ?? 'Zetopsis itself',
      retiredAt: row.retired_at,
      historyUntil: row.history_until_ms,
      secretEncrypted: row.secret_encrypted,
    }));
  }
  /** The endpoint of this name; a retired one comes back into use. */
  async use({ kind, connectionId, name }: EndpointName): Promise<number> {
    if (kind === 'own') {
      const [known]: { id: number }[] = await this.database.query(`select id from endpoint where own`);
      if (known) return known.id;
      const [made]: { id: number }[] = await this.database.query(
        `insert into endpoint (own) values (true) returning id`,
      );
      return made!.id; // insert returns the row
    }
    // kinds are columns; given ones and those who push are known by their name alone
    const by = kind === 'given' || kind === 'pushed' ? kind : `connection_id, ${kind}`;
    const [row]: { id: number }[] = await this.database.query(
      `insert into endpoint (connection_id, ${kind}) values ($1, $2)
       on conflict (${by}) do update set retired_at = null, connection_id = excluded.connection_id returning id`,
      [connectionId, name],
    );
    return row!.id; // insert or update always returns the row
  }
  async keepSecret(
    given: string,
    secretEncrypted: string,
    manager: EntityManager = this.database.manager,
  ): Promise<void> {
    await manager.query(
      `insert into endpoint (given, secret_encrypted) values ($1, $2)
       on conflict (given) do update set secret_encrypted = excluded.secret_encrypted`,
      [given, secretEncrypted],
    );
  }
  async keepScoutSecret(
    scout: string,
    secretEncrypted: string,
    manager: EntityManager = this.database.manager,
  ): Promise<void> {
    await manager.query(
      `insert into scout_secret (scout, secret_encrypted) values ($1, $2)
       on conflict (scout) do update set secret_encrypted = excluded.secret_encrypted`,
      [scout, secretEncrypted],
    );
  }
  async scoutSecrets(): Promise<Map<string, string>> {
    const rows: { scout: string; secret_encrypted: string }[] = await this.database.query(
      `select scout, secret_encrypted from scout_secret`,
    );
    return new Map(rows.map((row) => [row.scout, row.secret_encrypted]));
  }
  /** Since when each of these scouts looks; those that are not known yet do so from now on, and who is gone is forgotten. */
  async scoutsSince(scouts: readonly string[], now: number): Promise<Map<string, number>> {
    await this.database.query(`delete from scout_since where scout <> all($1)`, [scouts]);
    await this.database.query(
      `insert into scout_since (scout, since_ms) select scout, $2 from unnest($1::text[]) as scout on conflict do nothing`,
      [scouts, now],
    );
    const rows: { scout: string; since_ms: number }[] = await this.database.query(
      `select scout, since_ms from scout_since`,
    );
    return new Map(rows.map(({ scout, since_ms }) => [scout, since_ms]));
  }
  async retire(id: number, at: Date): Promise<void> {
    await this.database.query(`update endpoint set retired_at = coalesce(retired_at, $2) where id = $1`, [id, at]);
  }
  /** With everything that was read from it. */
  async remove(id: number): Promise<void> {
    await this.database.query(`delete from endpoint where id = $1`, [id]);
  }
  async historyRead(id: number, until: number): Promise<void> {
    await this.database.query(`update endpoint set history_until_ms = $2 where id = $1`, [id, until]);
  }
  async newestReadings(): Promise<Map<number, number>> {
    const rows: { id: number; at: number }[] = await this.database.query(
      `select e.id, greatest((select max(at_ms) from journal j where j.endpoint_id = e.id), (select max(to_ms) from chunk c where c.endpoint_id = e.id)) as at from endpoint e`,
    );
    return new Map(rows.filter(({ at }) => at !== null).map(({ id, at }) => [id, at]));
  }

  // ---- gaps -------------------------------------------------------------------------------------------------------

  async openGap({
    endpointId,
    from,
    reason,
    planned = false,
    own = false,
  }: {
    readonly endpointId: number;
    readonly from: number;
    readonly reason: string;
    readonly planned?: boolean;
    /** Zetopsis itself read or kept nothing. */
    readonly own?: boolean;
  }): Promise<void> {
    await this.database.query(
      `insert into endpoint_gap (endpoint_id, from_ms, reason, planned, own) values ($1, $2, $3, $4, $5)
       on conflict (endpoint_id, from_ms) do update set reason = excluded.reason, planned = true where excluded.planned`,
      [endpointId, Math.round(from), reason, planned, own],
    );
  }
  /** The same with a reason that tells more than the one before: Zetopsis itself did not keep what was read. */
  async reopenGap(endpointId: number, from: number, reason: string): Promise<void> {
    await this.database.query(
      `insert into endpoint_gap (endpoint_id, from_ms, reason, planned, own) values ($1, $2, $3, false, true)
       on conflict (endpoint_id, from_ms) do update set reason = excluded.reason, own = true where not endpoint_gap.planned`,
      [endpointId, Math.round(from), reason],
    );
  }
  async closeGap(endpointId: number, to: number): Promise<void> {
    await this.database.query(
      `update endpoint_gap set to_ms = greatest(from_ms, $2) where endpoint_id = $1 and to_ms is null`,
      [endpointId, to],
    );
  }
  async openGaps(): Promise<GapRow[]> {
    return this.rows(`where to_ms is null`, []);
  }
  async gaps(endpointIds: readonly number[], from: number, to: number): Promise<GapRow[]> {
    return this.rows(`where endpoint_id = any($1) and from_ms <= $3 and (to_ms is null or to_ms >= $2)`, [
      endpointIds,
      from,
      to,
    ]);
  }
  /** Of every endpoint, when it was silent: neither by plan nor by what Zetopsis itself missed. The newest where there are too many. */
  async silences(from: number, to: number, most: number): Promise<(GapRow & Omit<EndpointName, 'kind'>)[]> {
    const rows: {
      from_ms: number;
      to_ms: number | null;
      reason: string;
      endpoint_id: number;
      name: string;
      connection_id: string | null;
    }[] = await this.database.query(
      `select g.from_ms, g.to_ms, g.reason, g.endpoint_id, coalesce(e.node, e.given, e.found, e.pushed) as name, e.connection_id from endpoint_gap g join endpoint e on e.id = g.endpoint_id
          where not g.planned and not g.own and g.from_ms <= $2 and (g.to_ms is null or g.to_ms >= $1) order by g.from_ms desc limit $3`,
      [from, to, most],
    );
    return rows.map((row) => ({
      endpointId: row.endpoint_id,
      from: row.from_ms,
      to: row.to_ms,
      reason: row.reason,
      planned: false,
      name: row.name,
      connectionId: row.connection_id,
    }));
  }
  private async rows(where: string, parameters: unknown[]): Promise<GapRow[]> {
    const rows: { endpoint_id: number; from_ms: number; to_ms: number | null; reason: string; planned: boolean }[] =
      await this.database.query(
        `select endpoint_id, from_ms, to_ms, reason, planned from endpoint_gap ${where} order by from_ms limit 2000`,
        parameters,
      );
    return rows.map((row) => ({
      endpointId: row.endpoint_id,
      from: row.from_ms,
      to: row.to_ms,
      reason: row.reason,
      planned: row.planned,
    }));
  }

  // ---- history ----------------------------------------------------------------------------------------------------

  /** A stretch that was noted in part before, by a process that ended, is added to. */
  async keepHistory(rows: readonly HistoryRow[]): Promise<void> {
    if (rows.length === 0) return;
    const column = <K extends keyof HistoryRow>(name: K) => rows.map((row) => row[name]);
    await this.database.query(
      `insert into endpoint_history (endpoint_id, at_ms, readings, failures, duration_ms, longest_ms, bytes, series, reason)
       select * from unnest($1::int[], $2::float8[], $3::int[], $4::int[], $5::real[], $6::real[], $7::float8[], $8::int[], $9::text[])
         as row(endpoint_id, at_ms, readings, failures, duration_ms, longest_ms, bytes, series, reason)
        where exists (select 1 from endpoint e where e.id = row.endpoint_id)
       on conflict (endpoint_id, at_ms) do update set
         readings = endpoint_history.readings + excluded.readings, failures = endpoint_history.failures + excluded.failures,
         duration_ms = coalesce(excluded.duration_ms, endpoint_history.duration_ms),
         longest_ms = greatest(endpoint_history.longest_ms, excluded.longest_ms),
         bytes = coalesce(excluded.bytes, endpoint_history.bytes), series = coalesce(excluded.series, endpoint_history.series),
         reason = coalesce(excluded.reason, endpoint_history.reason)`,
      [
        column('endpointId'),
        column('at'),
        column('readings'),
        column('failures'),
        column('durationMs'),
        column('longestMs'),
        column('bytes'),
        column('series'),
        column('reason'),
      ],
    );
  }
  async history(endpointId: number, from: number): Promise<HistoryRow[]> {
    return this.historyRows(`where endpoint_id = $1 and at_ms >= $2 order by at_ms`, [endpointId, from]);
  }
  /** Of each endpoint what was noted nearest before a moment, and not long before. */
  async historyAround(at: number, reach: number): Promise<Map<number, HistoryRow>> {
    const rows = await this.historyRows(
      `where (endpoint_id, at_ms) in (
         select endpoint_id, max(at_ms) from endpoint_history where at_ms <= $1 and at_ms > $2 and series is not null group by endpoint_id)`,
      [at, at - reach],
    );
    return new Map(rows.map((row) => [row.endpointId, row]));
  }
  private async historyRows(where: string, parameters: unknown[]): Promise<HistoryRow[]> {
    const rows: {
      endpoint_id: number;
      at_ms: number;
      readings: number;
      failures: number;
      duration_ms: number | null;
      longest_ms: number | null;
      bytes: number | null;
      series: number | null;
      reason: string | null;
    }[] = await this.database.query(
      `select endpoint_id, at_ms, readings, failures, duration_ms, longest_ms, bytes, series, reason from endpoint_history ${where}`,
      parameters,
    );
    return rows.map((row) => ({
      endpointId: row.endpoint_id,
      at: row.at_ms,
      readings: row.readings,
      failures: row.failures,
      durationMs: row.duration_ms,
      longestMs: row.longest_ms,
      bytes: row.bytes,
      series: row.series,
      reason: row.reason,
    }));
  }
}
