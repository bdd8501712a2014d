import { Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import type { ChannelDocument, ChannelInput, ChannelsAnswer } from '@zetopsis/contract';
import { filledTemplate, type HookBody } from '@zetopsis/core/rules';
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
  /** What a message is to each channel of a team that is on; `bodyFor`: with the key that it has there. */
  messagesTo(team: string, bodyFor: (channel: string) => HookBody): Outgoing[] {
    return [...this.configuration.all('channel')].flatMap(([channel, document]): Outgoing[] => {
      if (document.team !== team || document.use === 'off') return [];
      return [this.outgoing(channel, document, bodyFor(channel))];
    });
  }
  private outgoing(channel: string, { name, template }: ChannelDocument, body: HookBody): Outgoing {
    return {
      channel,
      recipient: name,
      text: template === null ? JSON.stringify(body) : filledTemplate(template, body),
    };
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
          lastSentAt: states.get(key)?.sentAt ?? null,
          lastError: states.get(key)?.error ?? null,
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
  }
  /** A message that says that it is a test. */
  async test(asker: Asker, key: string): Promise<void> {
    const document = this.look(asker, key);
    this.demandChange(asker, document.team);
    const at = this.clock.now();
    const stableKey = `test-${at}-hook-${key}`;
    const body: HookBody = {
      version: 1,
      key: stableKey,
      change: 'test',
      severity: 'warning',
      title: `Test: ${document.name}`,
      place: [],
      rule: '',
      at: new Date(at).toISOString(),
      since: new Date(at).toISOString(),
      value: '',
      limit: '',
      reason: 'Somebody asked for a test of this channel. Nothing is wrong.',
      evidence: '',
      changed: '',
      nextStep: '',
      runbook: '',
      team: this.forTeams.nameOf(document.team) ?? '',
      link: '',
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
