import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import { DataSource, type EntityManager } from 'typeorm';

export interface OutgoingMessage {
  /** Change × recipient × channel: travels with the message, so that a receiver can drop a copy. */
  readonly stableKey: string;
  readonly alertId: number | null;
  readonly recipient: string;
  /** The key of a channel that takes it; null: by email. */
  readonly channel: string | null;
  readonly subject: string;
  readonly text: string;
  readonly html: string;
}
export interface OutboxRow {
  readonly id: number;
  readonly stableKey: string;
  readonly alertId: number | null;
  readonly recipient: string;
  readonly channel: string | null;
  readonly subject: string;
  readonly text: string;
  readonly html: string;
  readonly createdAt: Date;
  readonly attempts: number;
  readonly nextAt: Date;
  readonly sentAt: Date | null;
  readonly deadAt: Date | null;
  readonly error: string | null;
  /** What a program answered to an action. */
  readonly answer: string | null;
  /** The message that it is sent in, together with others. */
  readonly foldedInto: number | null;
}

/** What the key of a message begins with that stands for several. */
const DIGEST = 'digest-';
export const isDigest = ({ stableKey }: Pick<OutboxRow, 'stableKey'>): boolean => stableKey.startsWith(DIGEST);
export const digestKey = (rows: readonly OutboxRow[], to: string): string =>
  `${DIGEST}${rows[0]?.id}-${rows.at(-1)?.id}-${to}`;

const COLUMNS = `id, stable_key as "stableKey", alert_id as "alertId", recipient, channel, subject, body_text as text, body_html as html,
  created_at as "createdAt", attempts, next_at as "nextAt", sent_at as "sentAt", dead_at as "deadAt", last_error as error, answer, folded_into as "foldedInto"`;

@Injectable()
export class OutboxStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  async add(manager: EntityManager, message: OutgoingMessage): Promise<void> {
    await manager.query(
      `insert into outbox (stable_key, alert_id, recipient, channel, subject, body_text, body_html)
       values ($1, $2, $3, $4, $5, $6, $7) on conflict (stable_key) do nothing`,
      [
        message.stableKey,
        message.alertId,
        message.recipient,
        message.channel,
        message.subject,
        message.text,
        message.html,
      ],
    );
  }
  async addAlone(message: OutgoingMessage): Promise<void> {
    await this.add(this.database.manager, message);
  }
  /** So many of each channel, so that a full one holds up no other; `mail`: those by email too. */
  async due(now: Date, limit: number, mail: boolean): Promise<OutboxRow[]> {
    return this.database.query(
      `select ${COLUMNS} from (
         select *, row_number() over (partition by channel, case when channel is null then recipient end order by id) as nth from outbox
          where sent_at is null and dead_at is null and folded_into is null and next_at <= $1 and ($3 or channel is not null)) as waiting
        where nth <= $2 order by id`,
      [now, limit, mail],
    );
  }
  /** How many wait to be sent, and how many nobody takes. */
  async counts(): Promise<{ waiting: number; dead: number }> {
    const [row]: { waiting: number; dead: number }[] = await this.database.query(
      `select count(*) filter (where dead_at is null)::int as waiting, count(dead_at)::int as dead from outbox
        where sent_at is null and folded_into is null`,
    );
    return row ?? { waiting: 0, dead: 0 };
  }
  /** And what was sent in it. */
  async sent(id: number, at: Date, answer: string | null): Promise<void> {
    await this.database.query(
      `update outbox set sent_at = $2, attempts = attempts + 1, last_error = null, answer = $3
        where id = $1 or folded_into = $1`,
      [id, at, answer],
    );
  }
  /** What waits for whoever it is for and stands for itself alone, oldest first. */
  async waitingFor(channel: string | null, recipient: string, limit: number): Promise<OutboxRow[]> {
    return this.database.query(
      `select ${COLUMNS} from outbox where sent_at is null and dead_at is null and folded_into is null and not starts_with(stable_key, $4)
          and channel is not distinct from $1 and ($1::text is not null or recipient = $2) order by id limit $3`,
      [channel, recipient, limit, DIGEST],
    );
  }
  /** One message for several: whichever of them still waits alone goes out in it. */
  async fold(ids: readonly number[], message: OutgoingMessage): Promise<void> {
    await this.database.transaction(async (manager) => {
      await this.add(manager, message);
      await manager.query(
        `update outbox set folded_into = (select id from outbox where stable_key = $2)
          where id = any($1) and sent_at is null and folded_into is null`,
        [ids, message.stableKey],
      );
    });
  }
  async failed({
    id,
    error,
    nextAt,
    at,
  }: {
    readonly id: number;
    readonly error: string;
    readonly nextAt: Date | null;
    readonly at: Date;
  }): Promise<void> {
    await this.database.query(
      `update outbox set attempts = attempts + 1, last_error = $2, next_at = coalesce($3, next_at), dead_at = case when $3::timestamptz is null then $4::timestamptz end
        where id = $1 or folded_into = $1`,
      [id, error, nextAt, at],
    );
  }
  /** What was sent together is tried together, whichever of it was asked for. */
  async retry(id: number, at: Date): Promise<boolean> {
    const [rows]: [unknown[], number] = await this.database.query(
      `update outbox set dead_at = null, attempts = 0, next_at = $2
         from (select coalesce(folded_into, id) as id from outbox where id = $1) as head
        where outbox.sent_at is null and (outbox.id = head.id or outbox.folded_into = head.id)
        returning outbox.id`,
      [id, at],
    );
    return rows.length > 0;
  }
  /** Whether anything was written of an alert, within the caller's transaction. */
  async hasOf(manager: EntityManager, alertId: number): Promise<boolean> {
    const rows: unknown[] = await manager.query(`select 1 from outbox where alert_id = $1 limit 1`, [alertId]);
    return rows.length > 0;
  }
  async newest(alertIds: readonly number[] | null, limit: number): Promise<OutboxRow[]> {
    return this.database.query(
      `select ${COLUMNS} from outbox where $1::int[] is null or alert_id = any($1) order by id desc limit $2`,
      [alertIds, limit],
    );
  }
  async alertOf(id: number): Promise<number | null> {
    const [row]: { alert: number | null }[] = await this.database.query(
      `select alert_id as alert from outbox where id = $1`,
      [id],
    );
    return row?.alert ?? null;
  }
  async ofAlerts(alertIds: readonly number[]): Promise<OutboxRow[]> {
    return this.database.query(`select ${COLUMNS} from outbox where alert_id = any($1) order by id`, [alertIds]);
  }
  /** How each channel stands: what waits, when something was sent last, and what went wrong last since then. */
  async byChannel(): Promise<{ channel: string; waiting: number; sentAt: Date | null; error: string | null }[]> {
    return this.database.query(
      `select channel, count(*) filter (where sent_at is null and dead_at is null and folded_into is null)::int as waiting, max(sent_at) as "sentAt",
              (array_agg(last_error order by id desc) filter (where sent_at is null))[1] as error
         from outbox where channel is not null group by channel`,
    );
  }
  /** How many were sent to a channel, or by email to somebody, since a moment. */
  async sentSince(channel: string | null, recipient: string, at: Date): Promise<number> {
    const [row]: { count: number }[] = await this.database.query(
      `select count(*)::int as count from outbox where channel is not distinct from $1
          and ($1::text is not null or recipient = $2) and sent_at > $3 and folded_into is null`,
      [channel, recipient, at],
    );
    return row?.count ?? 0;
  }
  async secrets(): Promise<Map<string, string>> {
    const rows: { channel: string; secret: string }[] = await this.database.query(
      `select channel, secret_encrypted as secret from channel_secret`,
    );
    return new Map(rows.map(({ channel, secret }) => [channel, secret]));
  }
  async setSecret(channel: string, secret: string): Promise<void> {
    await this.database.query(
      `insert into channel_secret (channel, secret_encrypted) values ($1, $2)
       on conflict (channel) do update set secret_encrypted = excluded.secret_encrypted`,
      [channel, secret],
    );
  }
  /** All, with what was sent together as one; or each that tells of these alerts. */
  async dead(alertIds: readonly number[] | null): Promise<OutboxRow[]> {
    return this.database.query(
      `select ${COLUMNS} from outbox
        where dead_at is not null and case when $1::int[] is null then folded_into is null else alert_id = any($1) end
        order by id desc limit 50`,
      [alertIds],
    );
  }
  /** Newest first, with the path of what each is about; `before`: older than that one. */
  async search({
    text,
    state,
    before,
    limit,
  }: {
    readonly text: string;
    readonly state: 'waiting' | 'sent' | 'dead' | null;
    readonly before: number | null;
    readonly limit: number;
  }): Promise<(OutboxRow & { readonly path: string[] | null })[]> {
    return this.database.query(
      `select ${COLUMNS.replaceAll(/(^|, |\n\s+)(?=[a-z])/g, '$1outbox.')}, alert.facts->'path' as path
         from outbox left join alert on alert.id = outbox.alert_id
        where ($1 = '' or strpos(lower(outbox.subject || ' ' || outbox.recipient || ' ' || coalesce(outbox.last_error, '')), lower($1)) > 0)
          and ($2::text is null or case when outbox.sent_at is not null then 'sent' when outbox.dead_at is not null then 'dead' else 'waiting' end = $2)
          and ($3::int is null or outbox.id < $3)
        order by outbox.id desc limit $4`,
      [text, state, before, limit],
    );
  }
}
