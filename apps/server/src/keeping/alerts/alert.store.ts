import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { AlertFacts } from '@zetopsis/answers/rules';
import { isAllClear, type LevelStates } from '@zetopsis/core/rules';
import { DataSource, type EntityManager } from 'typeorm';

export interface AlertRow {
  readonly id: number;
  readonly ruleId: number;
  /** Null of what stands in no cluster. */
  readonly connectionId: string | null;
  readonly subject: string;
  readonly severity: 'critical' | 'warning';
  readonly since: number;
  readonly raisedAt: number;
  readonly endedAt: number | null;
  readonly endedHow: string | null;
  readonly facts: AlertFacts;
  /** Its rule was on trial: nobody was told. */
  readonly trial: boolean;
  readonly taken: TakenAlert | null;
  /** The hush that kept something of it quiet, and why; `hushed` is null again when it was told after all. */
  readonly hushKey: string | null;
  readonly hushed: string | null;
}
/** Who looks after it. */
export interface TakenAlert {
  readonly by: string;
  readonly at: number;
  readonly note: string;
}
/** How an object stands with a rule. */
export interface ObjectState {
  readonly connectionId: string | null;
  readonly subject: string;
  readonly state: LevelStates;
  readonly alertId: number | null;
}
export interface StateRow extends ObjectState {
  readonly ruleId: number;
}

const ALERT = `id, rule_id as "ruleId", connection_id as "connectionId", subject, severity, since_ms as since, raised_ms as "raisedAt",
  ended_ms as "endedAt", ended_how as "endedHow", facts, trial, taken,
  hush_key as "hushKey", hushed`;
/** States that are written in one question to the database. */
const AT_ONCE = 500;
const STATE = `rule_id as "ruleId", connection_id as "connectionId", subject, state, alert_id as "alertId"`;

/** Alerts and the states of rules; state and alert change in the caller's transaction. */
@Injectable()
export class AlertStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  transaction<T>(work: (manager: EntityManager) => Promise<T>): Promise<T> {
    return this.database.transaction(work);
  }
  async allStates(): Promise<StateRow[]> {
    return this.database.query(`select ${STATE} from rule_state`);
  }
  async statesOf(ruleIds: readonly number[]): Promise<StateRow[]> {
    return this.database.query(`select ${STATE} from rule_state where rule_id = any($1)`, [ruleIds]);
  }
  /** Of one rule. A clear state is no row at all; of two about the same the later one counts. */
  async putStates(manager: EntityManager, ruleId: number, states: readonly ObjectState[]): Promise<void> {
    const last = [...new Map(states.map((one) => [`${one.connectionId} ${one.subject}`, one])).values()];
    for (let i = 0; i < last.length; i += AT_ONCE) {
      const some = last.slice(i, i + AT_ONCE);
      await this.forget(
        manager,
        ruleId,
        some.filter(({ state }) => isAllClear(state)),
      );
      await this.keep(
        manager,
        ruleId,
        some.filter(({ state }) => !isAllClear(state)),
      );
    }
  }
  private async forget(manager: EntityManager, ruleId: number, clear: readonly ObjectState[]): Promise<void> {
    if (clear.length === 0) return;
    await manager.query(
      `delete from rule_state using unnest($2::uuid[], $3::text[]) as clear (connection_id, subject)
        where rule_state.rule_id = $1 and rule_state.subject = clear.subject
          and rule_state.connection_id is not distinct from clear.connection_id`,
      [ruleId, clear.map(({ connectionId }) => connectionId), clear.map(({ subject }) => subject)],
    );
  }
  private async keep(manager: EntityManager, ruleId: number, states: readonly ObjectState[]): Promise<void> {
    if (states.length === 0) return;
    await manager.query(
      `insert into rule_state (rule_id, connection_id, subject, state, alert_id)
       select $1, connection_id, subject, state::jsonb, alert_id
         from unnest($2::uuid[], $3::text[], $4::text[], $5::int[]) as own (connection_id, subject, state, alert_id)
       on conflict (rule_id, connection_id, subject) do update set state = excluded.state, alert_id = excluded.alert_id`,
      [
        ruleId,
        states.map(({ connectionId }) => connectionId),
        states.map(({ subject }) => subject),
        states.map(({ state }) => JSON.stringify(state)),
        states.map(({ alertId }) => alertId),
      ],
    );
  }
  async judged(manager: EntityManager, ruleId: number, until: number): Promise<void> {
    await manager.query(`update rule set judged_ms = $2 where id = $1`, [ruleId, until]);
  }
  async judgedAll(manager: EntityManager, judged: ReadonlyMap<number, number>): Promise<void> {
    await manager.query(
      `update rule set judged_ms = own.until from unnest($1::int[], $2::bigint[]) as own (id, until) where rule.id = own.id`,
      [[...judged.keys()], [...judged.values()]],
    );
  }
  async raise(manager: EntityManager, row: Omit<AlertRow, 'id' | 'endedAt' | 'endedHow' | 'taken'>): Promise<number> {
    const [made]: { id: number }[] = await manager.query(
      `insert into alert (rule_id, connection_id, subject, severity, since_ms, raised_ms, facts, trial, hush_key, hushed)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10) returning id`,
      [
        row.ruleId,
        row.connectionId,
        row.subject,
        row.severity,
        row.since,
        row.raisedAt,
        JSON.stringify(row.facts),
        row.trial,
        row.hushKey,
        row.hushed,
      ],
    );
    return made!.id; // insert returns its row
  }
  async end({
    manager,
    id,
    at,
    how,
  }: {
    readonly manager: EntityManager;
    readonly id: number;
    readonly at: number;
    readonly how: string;
  }): Promise<AlertRow | null> {
    const [rows]: [AlertRow[], number] = await manager.query(
      `update alert set ended_ms = $2, ended_how = $3 where id = $1 and ended_ms is null returning ${ALERT}`,
      [id, at, how],
    );
    return rows[0] ?? null;
  }
  /** `facts`: as it stands by now; null: as before. Null when it had ended before. */
  async setSeverity({
    manager,
    id,
    severity,
    facts,
  }: {
    readonly manager: EntityManager;
    readonly id: number;
    readonly severity: AlertRow['severity'];
    readonly facts: AlertFacts | null;
  }): Promise<AlertRow | null> {
    const [rows]: [AlertRow[], number] = await manager.query(
      `update alert set severity = $2, facts = coalesce($3::jsonb, facts) where id = $1 and ended_ms is null returning ${ALERT}`,
      [id, severity, facts === null ? null : JSON.stringify(facts)],
    );
    return rows[0] ?? null;
  }
  async open(): Promise<AlertRow[]> {
    return this.database.query(
      `select ${ALERT} from alert where ended_ms is null and not trial order by raised_ms desc limit 1000`,
    );
  }
  async within(from: number, to: number, limit: number): Promise<AlertRow[]> {
    return this.database.query(
      `select ${ALERT} from alert where raised_ms <= $2 and (ended_ms is null or ended_ms >= $1) and not trial
        order by raised_ms desc limit $3`,
      [from, to, limit],
    );
  }
  async ofRule(ruleId: number, from: number, limit: number): Promise<AlertRow[]> {
    return this.database.query(
      `select ${ALERT} from alert where rule_id = $1 and (ended_ms is null or ended_ms >= $2) order by raised_ms desc limit $3`,
      [ruleId, from, limit],
    );
  }
  /** When each rule raised something last. */
  async lastRaised(): Promise<{ ruleId: number; at: number }[]> {
    return this.database.query(`select rule_id as "ruleId", max(raised_ms) as at from alert group by rule_id`);
  }
  /** Open ones that a hush keeps quiet. */
  async hushed(): Promise<AlertRow[]> {
    return this.database.query(`select ${ALERT} from alert where ended_ms is null and hushed is not null order by id`);
  }
  async ofHush(key: string, limit: number): Promise<AlertRow[]> {
    return this.database.query(`select ${ALERT} from alert where hush_key = $1 order by raised_ms desc limit $2`, [
      key,
      limit,
    ]);
  }
  /** Whether it was open still. */
  async setHushed({
    manager,
    id,
    key,
    reason,
  }: {
    readonly manager: EntityManager;
    readonly id: number;
    readonly key: string | null;
    readonly reason: string | null;
  }): Promise<boolean> {
    const [rows]: [unknown[], number] = await manager.query(
      `update alert set hush_key = coalesce($2, hush_key), hushed = $3 where id = $1 and ended_ms is null returning id`,
      [id, key, reason],
    );
    return rows.length > 0;
  }
  /** Null: given back. Whether it was there to be taken. */
  async take(id: number, taken: TakenAlert | null): Promise<boolean> {
    const [rows]: [unknown[], number] = await this.database.query(
      `update alert set taken = $2 where id = $1 and ended_ms is null returning id`,
      [id, taken === null ? null : JSON.stringify(taken)],
    );
    return rows.length > 0;
  }
  async pathOf(id: number): Promise<readonly string[] | null> {
    const [row]: { path: string[] }[] = await this.database.query(
      `select facts->'path' as path from alert where id = $1`,
      [id],
    );
    return row?.path ?? null;
  }
}
