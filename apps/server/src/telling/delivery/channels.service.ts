import { Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import type { ChannelDocument, ChannelInput, ChannelsAnswer } from '@zetopsis/contract';
import { digestBody, digestMessage, filledTemplate, type HookBody } from '@zetopsis/core/rules';
import { type Asker, KeptForTeams } from '../../asking/owners/keptForTeams.service.ts';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import type { DocumentChange, DocumentProblem, Documents } from '../../ground/configuration/documents.ts';
import { freeKey } from '../../ground/configuration/freeKey.ts';
import { KeptSecrets, placeOf } from '../../ground/platform/keptSecrets.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Secrets } from '../../ground/platform/secrets.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { OutboxService } from '../../keeping/outbox/outbox.service.ts';

const MOST = 500;
const ORIGIN_ONLY = { authority: '' };
/** A message for a channel, as the outbox has it. */
export interface Outgoing {
  readonly channel: string;
  readonly recipient: string;
  readonly text: string;
}

/** Programs that are told what teams are told. Their secrets go to the address they were given for, and nowhere else. */
@Injectable()
export class Channels implements OnApplicationBootstrap {
  private readonly kept: KeptSecrets;
  private readonly beats = new Map<string, { readonly sentAt: number | null; readonly error: string | null }>();
  constructor(
    private readonly configuration: ConfigurationService,
    private readonly forTeams: KeptForTeams,
    private readonly outbox: OutboxService,
    private readonly clock: Clock,
    secrets: Secrets,
    log: ServerLog,
  ) {
    this.kept = new KeptSecrets(secrets, (key, error) => log.failure('tokenNotReadable', error, { channel: key }));
  }

  async onApplicationBootstrap(): Promise<void> {
    this.configuration.addCheck(problemsOf);
    for (const [key, encrypted] of await this.outbox.secrets()) this.kept.note(key, encrypted);
  }

  get(key: string): ChannelDocument | null {
    return this.configuration.get('channel', key);
  }
  secretOf(key: string, { address }: ChannelDocument): string {
    return this.kept.of(key, placeOf({ address, ...ORIGIN_ONLY }));
  }
  /**
   * What a message is to each channel of a team that is on; `bodyFor`: with the key that it has there. What acts is told of what
   * is raised, and of nothing else.
   */
  messagesTo(team: string, change: HookBody['change'], bodyFor: (channel: string) => HookBody): Outgoing[] {
    return [...this.configuration.all('channel')].flatMap(([channel, document]): Outgoing[] => {
      if (document.team !== team || document.use === 'off' || document.does === 'heartbeat') return [];
      if (document.does === 'act' && change !== 'raised') return [];
      return [this.outgoing(channel, document, bodyFor(channel))];
    });
  }
  /** A body as a channel has it. */
  written({ template }: ChannelDocument, body: HookBody): string {
    return template === null ? JSON.stringify(body) : filledTemplate(template, body);
  }
  private outgoing(channel: string, document: ChannelDocument, body: HookBody): Outgoing {
    return { channel, recipient: document.name, text: this.written(document, body) };
  }

  /** Several messages for a channel in one; they are read back from what each would have been. */
  digestOf(channel: string, key: string, rows: readonly { readonly text: string; readonly subject: string }[]) {
    const template = this.get(channel)?.template ?? null;
    const { subject, text } = digestMessage(rows);
    if (template === null) {
      const bodies = rows.map((row) => bodyOf(row) ?? { ...testBody(this.clock.now(), key), title: row.subject });
      return { subject, text: JSON.stringify(digestBody(key, bodies)) };
    }
    const body: HookBody = { ...testBody(this.clock.now(), key), change: 'digest', title: subject, reason: text };
    return { subject, text: filledTemplate(template, body) };
  }
  /** Heartbeats that are on. */
  heartbeats(): { readonly key: string; readonly document: ChannelDocument }[] {
    return [...this.configuration.all('channel')].flatMap(([key, document]) =>
      document.does === 'heartbeat' && document.use === 'on' ? [{ key, document }] : [],
    );
  }
  /** How the last beat of a channel went; `error` null: it was taken. */
  noteBeat(key: string, at: number, error: string | null): void {
    this.beats.set(key, { sentAt: error === null ? at : (this.beats.get(key)?.sentAt ?? null), error });
  }

  async list(asker: Asker): Promise<ChannelsAnswer> {
    const states = await this.outbox.byChannel();
    return {
      channels: [...this.configuration.all('channel')]
        .filter(([, { team }]) => this.forTeams.seesAllOf(asker, team))
        .map(([key, document]) => ({
          key,
          document,
          owner: this.forTeams.nameOf(document.team),
          signs: this.secretOf(key, document) !== '',
          mayChange: this.forTeams.mayChange(asker, document.team),
          waiting: states.get(key)?.waiting ?? 0,
          lastSentAt: this.beats.get(key)?.sentAt ?? states.get(key)?.sentAt ?? null,
          lastError: this.beats.get(key)?.error ?? states.get(key)?.error ?? null,
        })),
    };
  }
  async add(asker: Asker, by: string, { document, secret }: ChannelInput): Promise<string> {
    this.demandChange(asker, document.team);
    const all = this.configuration.all('channel');
    if (all.size >= MOST) throw new Refusal('conflict', `There are ${MOST} channels already. Remove one first.`);
    const key = freeKey(document.name, 'channel', (one) => all.has(one));
    await this.configuration.change({
      by,
      what: `added the channel ${document.name}`,
      wishes: [{ kind: 'channel', key, after: document, fresh: true }],
    });
    await this.setSecret(key, document, secret ?? '');
    return key;
  }
  async save(asker: Asker, by: string, key: string, { document, secret }: ChannelInput): Promise<void> {
    this.demandChange(asker, this.look(asker, key).team);
    this.demandChange(asker, document.team);
    await this.configuration.change({
      by,
      what: `changed the channel ${document.name}`,
      wishes: [{ kind: 'channel', key, after: document }],
    });
    if (secret !== null) await this.setSecret(key, document, secret);
  }
  async remove(asker: Asker, by: string, key: string): Promise<void> {
    const { team, name } = this.look(asker, key);
    this.demandChange(asker, team);
    await this.configuration.change({
      by,
      what: `removed the channel ${name}`,
      wishes: [{ kind: 'channel', key, after: null }],
    });
    await this.setSecret(key, null, '');
    this.beats.delete(key);
  }
  /** A message that says that it is a test. */
  async test(asker: Asker, key: string): Promise<void> {
    const document = this.look(asker, key);
    this.demandChange(asker, document.team);
    const at = this.clock.now();
    const stableKey = `test-${at}-hook-${key}`;
    const body: HookBody = {
      ...testBody(at, stableKey),
      title: `Test: ${document.name}`,
      reason: 'Somebody asked for a test of this channel. Nothing is wrong.',
      team: this.forTeams.nameOf(document.team) ?? '',
    };
    await this.outbox.enqueueAlone({
      stableKey,
      alertId: null,
      ...this.outgoing(key, document, body),
      subject: body.title,
      html: '',
    });
  }
  private async setSecret(key: string, document: ChannelDocument | null, secret: string): Promise<void> {
    const sealed = document === null ? '' : this.kept.sealed(placeOf({ ...document, ...ORIGIN_ONLY }), secret);
    await this.outbox.setSecret(key, sealed);
    this.kept.note(key, sealed);
  }
  private look(asker: Asker, key: string): ChannelDocument {
    const document = this.get(key);
    if (!document || !this.forTeams.seesAllOf(asker, document.team))
      throw new Refusal('notFound', 'There is no such channel (any more).');
    return document;
  }
  private demandChange(asker: Asker, team: string): void {
    const refusal = 'A team’s channel is set up by its members.';
    this.forTeams.demandChange(asker, team, { everybody: refusal, team: refusal });
  }
}

/** What this server wrote itself; null where the channel had a template then. */
function bodyOf({ text }: { readonly text: string }): HookBody | null {
  const read: unknown = JSON.parse(text);
  return typeof read === 'object' && read !== null && 'version' in read && 'change' in read ? (read as HookBody) : null;
}
/** What every message has, with nothing said. */
export const testBody = (at: number, key: string): HookBody => ({
  version: 1,
  key,
  change: 'test',
  severity: 'warning',
  title: '',
  place: [],
  rule: '',
  at: new Date(at).toISOString(),
  since: new Date(at).toISOString(),
  value: '',
  limit: '',
  reason: '',
  evidence: '',
  changed: '',
  nextStep: '',
  runbook: '',
  links: [],
  team: '',
  link: '',
});
/** Teams that are not there. */
function problemsOf(wanted: Documents, changes: readonly DocumentChange[]): DocumentProblem[] {
  if (!changes.some(({ kind }) => kind === 'channel' || kind === 'team')) return [];
  return [...wanted.all('channel')].flatMap(([key, { name, team }]): DocumentProblem[] =>
    wanted.get('team', team) === null
      ? [
          {
            kind: 'channel',
            key,
            path: ['team'],
            text: `The channel “${name}” belongs to the team ${team}, which is not there.`,
          },
        ]
      : [],
  );
}
