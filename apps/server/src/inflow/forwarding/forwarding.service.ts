import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { ForwardDocument, ForwardInput, ForwardState, ForwardsAnswer, ForwardTest } from '@zetopsis/contract';
import type { FamilyOut } from '@zetopsis/core/exposition';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { freeKey } from '../../ground/configuration/freeKey.ts';
import { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { KeptSecrets, placeOf } from '../../ground/platform/keptSecrets.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { counter, gauge, OwnFigures } from '../../ground/platform/ownFigures.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Secrets } from '../../ground/platform/secrets.ts';
import { Clock, Settings } from '../../ground/platform/settings.ts';
import { LeaseService } from '../../keeping/store/lease.service.ts';
import { ForwardStore } from './forward.store.ts';
import { Forwarder } from './forwarder.ts';

const MOST = 20;

/** Receivers to which goes on what is taken here. */
@Injectable()
export class ForwardingService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly forwarders = new Map<string, Forwarder>();
  private readonly kept: KeptSecrets;

  constructor(
    private readonly configuration: ConfigurationService,
    private readonly store: ForwardStore,
    private readonly guard: AddressGuard,
    private readonly settings: Settings,
    private readonly lease: LeaseService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
    secrets: Secrets,
    figures: OwnFigures,
  ) {
    figures.onAsked(() => this.families());
    this.kept = new KeptSecrets(secrets, (key, error) => log.failure('tokenNotReadable', error, { forward: key }));
  }
  async onApplicationBootstrap(): Promise<void> {
    const own = new URL(this.settings.config.publicUrl).origin;
    this.configuration.addCheck((_wanted, changes) =>
      changes.flatMap(({ kind, key, after }) =>
        kind === 'forward' && after !== null && new URL((after as ForwardDocument).address).origin === own // of its kind
          ? [
              {
                kind,
                key,
                path: ['address'],
                text: 'This is Zetopsis itself: what goes on would come in again, without end.',
              },
            ]
          : [],
      ),
    );
    for (const [key, encrypted] of await this.store.secrets()) this.kept.note(key, encrypted);
    for (const [key, document] of this.configuration.all('forward')) this.begin(key, document);
    this.configuration.onApplied('forward', async ({ key }) => {
      await this.forwarders.get(key)?.stop();
      this.forwarders.delete(key);
      const document = this.configuration.get('forward', key);
      if (document) this.begin(key, document);
      else {
        await this.setSecret(key, null, '');
        await this.store.removeBut([...this.configuration.all('forward').keys()]);
      }
    });
  }
  async onApplicationShutdown(): Promise<void> {
    await Promise.all([...this.forwarders.values()].map((one) => one.stop()));
  }
  private begin(key: string, document: ForwardDocument): void {
    this.forwarders.set(
      key,
      new Forwarder(key, document, {
        store: this.store,
        guard: this.guard,
        now: () => this.clock.now(),
        secret: () => this.secretOf(key, document),
        mayWrite: () => this.lease.epoch > 0,
        failed: (error) => this.log.failure('notForwarded', error, { forward: key }),
      }),
    );
  }
  private secretOf(key: string, document: ForwardDocument): string {
    return this.kept.of(key, placeOf(document));
  }

  private async families(): Promise<FamilyOut[]> {
    const states = await Promise.all(
      [...this.forwarders].map(async ([key, one]) => ({ labels: { forward: key }, state: await one.state() })),
    );
    const of = (value: (state: ForwardState) => number) =>
      states.map(({ labels, state }) => ({ labels, value: value(state) }));
    return [
      gauge({
        name: 'forward_waiting',
        unit: 'bytes',
        help: 'What waits for a receiver.',
        samples: of(({ waiting }) => waiting.bytes),
      }),
      counter({ name: 'forwarded', help: 'Items that a receiver took.', samples: of(({ sent }) => sent) }),
      counter({
        name: 'forwards_lost',
        help: 'Items that a receiver refused for good, or that there was no room for.',
        samples: of(({ refused, dropped }) => refused + dropped),
      }),
    ];
  }

  async list(): Promise<ForwardsAnswer> {
    return {
      forwards: await Promise.all(
        [...this.configuration.all('forward')].map(async ([key, document]) => ({
          key,
          document,
          proves: this.secretOf(key, document) !== '',
          state: await this.forwarder(key).state(),
        })),
      ),
      keys: [...this.configuration.all('push key').keys()].sort(),
      clusters: [...this.configuration.all('cluster').keys()].sort(),
    };
  }
  async add(by: string, { document, secret }: ForwardInput): Promise<string> {
    const all = this.configuration.all('forward');
    if (all.size >= MOST) throw new Refusal('conflict', `It goes on to ${MOST} receivers already. Remove one first.`);
    const key = freeKey(document.title, 'forward', (one) => all.has(one));
    await this.setSecret(key, document, secret ?? '');
    await this.configuration.change({
      by,
      what: `lets what is pushed go on to ${document.title}`,
      wishes: [{ kind: 'forward', key, after: document, fresh: true }],
    });
    return key;
  }
  async save(by: string, key: string, { document, secret }: ForwardInput): Promise<void> {
    this.forwarder(key);
    if (secret !== null) await this.setSecret(key, document, secret);
    await this.configuration.change({
      by,
      what: `changed what goes on to ${document.title}`,
      wishes: [{ kind: 'forward', key, after: document }],
    });
  }
  async remove(by: string, key: string): Promise<void> {
    this.forwarder(key);
    await this.configuration.change({
      by,
      what: `lets nothing go on to ${key} any more`,
      wishes: [{ kind: 'forward', key, after: null }],
    });
  }
  async test(key: string): Promise<ForwardTest> {
    const forwarder = this.forwarder(key);
    const { signals } = this.configuration.get('forward', key)!; // it has a forwarder
    return {
      answers: await Promise.all(signals.map(async (signal) => ({ signal, ...(await forwarder.test(signal)) }))),
    };
  }
  private forwarder(key: string): Forwarder {
    const found = this.forwarders.get(key);
    if (!found) throw new Refusal('notFound', 'Nothing goes on to this receiver (any more).');
    return found;
  }
  private async setSecret(key: string, document: ForwardDocument | null, secret: string): Promise<void> {
    const sealed = document === null ? '' : this.kept.sealed(placeOf(document), secret);
    await this.store.setSecret(key, sealed);
    this.kept.note(key, sealed);
  }
}
