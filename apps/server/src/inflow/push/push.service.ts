import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { NewPushToken, PushDocument, PushKeysAnswer } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { type Form, PageBuffer, type PageMemory, readBuffer, writePage } from '@zetopsis/core/exposition';
import { CountedOn, type PushedPage, type PushedResource, pushedPageBySteps } from '@zetopsis/core/telemetry';
import { DAY, HOUR } from '@zetopsis/core/units';
import pLimit, { type LimitFunction } from 'p-limit';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { turn, yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock, Settings } from '../../ground/platform/settings.ts';
import type { Acceptance } from '../../keeping/store/acceptance.ts';
import { StoreLimits } from '../../keeping/store/storeLimits.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { EndpointAnswersService } from '../scraping/endpointAnswers.service.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import type { FetchResult } from '../scraping/fetched.ts';
import { LINKS_SENDER, partsOf, pushedPlan, senderName, WIRES_SENDER } from '../scraping/plans.ts';
import { ReadingsService } from '../scraping/readings.service.ts';
import { InHand } from './inHand.ts';
import { whereKeysBelong } from './keyChecks.ts';
import { KeyTokens } from './keyTokens.ts';
import { PushStore } from './push.store.ts';
import { PushCounts } from './pushCounts.ts';
import type { PushedBy } from './pushRequest.ts';

/** Senders of one key: a key that is used with a name that changes each time must not fill the list. */
const MOST_SENDERS = 500;
/** Who was silent for so long is retired; the history is kept, and a new push brings it back. */
const SILENT_FOR = DAY;

type Sender = Pick<PushedResource, 'name' | 'labels'>;

/** Takes what programs push with a key: each sender is an endpoint, and each push a reading of it. */
@Injectable()
export class PushService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly senders = new Map<string, Map<string, Sender>>();
  private readonly accumulated = new Map<number, CountedOn>();
  /** Pushes of one sender one after the other: they share what is known of its last page. */
  private readonly inOrder = new Map<string, { readonly limit: LimitFunction; users: number }>();
  private readonly inHand = new InHand();
  private readonly retiring = new Repeated(() => this.retireSilent(), HOUR);

  constructor(
    private readonly store: PushStore,
    private readonly tokens: KeyTokens,
    private readonly counts: PushCounts,
    private readonly endpoints: EndpointsService,
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly readings: ReadingsService,
    private readonly configuration: ConfigurationService,
    private readonly connections: ConnectionsService,
    private readonly limits: StoreLimits,
    private readonly settings: Settings,
    private readonly clock: Clock,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    this.configuration.addCheck(whereKeysBelong);
    this.endpoints.onRemoved(({ id, kind, name }) => {
      if (kind !== 'pushed') return;
      const { key, sender } = partsOf(name);
      this.senders.get(key)?.delete(sender);
      this.accumulated.delete(id);
    });
    this.configuration.onApplied('push key', async ({ key, after }) => {
      if (after === null) {
        this.senders.delete(key);
        await this.tokens.remove(key);
      }
      await this.review();
    });
    await this.tokens.load();
    for (const name of await this.endpoints.namesInUse('pushed')) {
      const { key, sender } = partsOf(name);
      // its labels come with its next push; until then nothing of it is named anew
      if (key !== '') this.sendersOf(key).set(sender, { name: sender, labels: {} });
    }
    await this.review();
    this.retiring.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.retiring.stop();
  }

  private sendersOf(key: string): Map<string, Sender> {
    const own = this.senders.get(key) ?? new Map<string, Sender>();
    this.senders.set(key, own);
    return own;
  }
  private review(): Promise<void> {
    const keys = [...this.configuration.all('push key')].filter(([, { use }]) => use === 'on');
    return this.endpoints.match(
      ({ plan }) => plan.kind === 'pushed' && ![LINKS_SENDER, WIRES_SENDER].includes(plan.name),
      keys.flatMap(([key, document]) => {
        const connectionId = document.cluster === null ? null : (this.connections.idOf(document.cluster) ?? null);
        return [...this.sendersOf(key).values()].map((sender) => pushedPlan({ key, sender, document, connectionId }));
      }),
    );
  }
  private async retireSilent(): Promise<void> {
    const before = this.clock.now() - SILENT_FOR;
    const own = this.endpointAnswers.list(Reach.ofZetopsis()).filter(({ kind }) => kind === 'pushed');
    for (const [key, senders] of this.senders)
      for (const name of [...senders.keys()]) {
        const endpoint = own.find((one) => one.name === senderName(key, name));
        if (endpoint && (endpoint.lastReadingAt ?? endpoint.since) < before) senders.delete(name);
      }
    await this.review();
  }

  // ---- keys ---------------------------------------------------------------------------------------------------------

  list(): PushKeysAnswer {
    const own = this.endpointAnswers.list(Reach.ofZetopsis()).filter(({ kind }) => kind === 'pushed');
    return {
      address: `${this.settings.config.publicUrl.replace(/\/+$/, '')}/api/push`,
      keys: [...this.configuration.all('push key')].map(([key, document]) => {
        const senders = own.filter(({ name, state: is }) => name.startsWith(`${key}: `) && is !== 'retired');
        return {
          key,
          document,
          ...this.tokens.answer(key),
          senders: senders.length,
          late: senders.filter(({ state: is }) => is !== 'read').length,
          ...this.counts.answer(key),
        };
      }),
    };
  }
  has(key: string): boolean {
    return this.configuration.get('push key', key) !== null;
  }
  /** A new key comes with its token. */
  async save(by: string, key: string, document: PushDocument): Promise<NewPushToken | null> {
    const known = this.has(key);
    await this.configuration.change({
      by,
      what: `${known ? 'changed' : 'made'} push key ${key}`,
      wishes: [{ kind: 'push key', key, after: document }],
    });
    return known ? null : this.newToken(key);
  }
  async newToken(key: string): Promise<NewPushToken> {
    this.mustKnow(key);
    return { key, token: await this.tokens.make(key) };
  }
  /** The token before counts no more from now on. */
  async endBefore(key: string): Promise<void> {
    this.mustKnow(key);
    await this.tokens.endBefore(key);
  }
  async remove(by: string, key: string): Promise<void> {
    this.mustKnow(key);
    await this.configuration.change({
      by,
      what: `removed push key ${key}`,
      wishes: [{ kind: 'push key', key, after: null }],
    });
  }
  private mustKnow(key: string): void {
    if (!this.has(key)) throw new Refusal('notFound', 'There is no push key of this name (any more).');
  }

  // ---- taking -------------------------------------------------------------------------------------------------------

  /** Whether somebody may push now, said before anything of it is read; `done` is called when it was answered. */
  async admit(authorization: string | undefined, origin?: string): Promise<PushedBy & { done: () => void }> {
    const known = await this.keyOf(authorization);
    if (origin !== undefined && !known.document.origins.includes(origin))
      throw new Refusal('notAllowed', `The push key ${known.key} takes nothing from pages of ${origin.slice(0, 200)}.`);
    const done = this.inHand.take(known.key);
    return { ...known, done };
  }
  /** Whether pages of an address may push at all: asked by browsers before they send a token. */
  takesFrom(origin: string): boolean {
    return [...this.configuration.all('push key').values()].some(
      ({ use, origins }) => use === 'on' && origins.includes(origin),
    );
  }
  /** The key that a request's token is of. */
  private async keyOf(authorization: string | undefined): Promise<PushedBy> {
    const key = this.tokens.keyOf(/^Bearer (\S{1,100})$/.exec(authorization ?? '')?.[1] ?? '');
    const document = key === null ? null : this.configuration.get('push key', key.name);
    if (key === null || !document)
      throw new Refusal('notSignedIn', 'This push key is not known. Send it as “Authorization: Bearer …”.');
    if (document.use === 'off') throw new Refusal('notAllowed', `The push key ${key.name} is switched off.`);
    await key.used();
    return { key: key.name, document };
  }

  /** Answers once it is durable. Resources are independent of each other. */
  async takeResource(key: string, resource: PushedResource): Promise<Left> {
    if (resource.points.length === 0) return { refused: 0, problem: null };
    const newest = resource.points.reduce((at, point) => Math.max(at, point.at), 0);
    const now = this.clock.now();
    // a clock that is ahead, or far behind, is not ours to follow
    const at = newest > 0 && newest <= now && now - newest < this.limits.lateWindow ? newest : now;
    let left: Left = { refused: 0, problem: null };
    await this.take({
      key,
      sender: resource,
      at,
      read: async (memory, endpointId) => {
        const before = this.accumulated.get(endpointId) ?? new CountedOn(await this.store.accumulated(endpointId));
        const { families, counted, refused, problem } = await yieldedInPieces(
          pushedPageBySteps(resource.points, before),
        );
        left = { refused, problem };
        if (counted) {
          // first what is counted on: a push that is sent again after a failure is then known, and counts once
          await this.store.countOn(endpointId, counted);
          before.take(counted);
          this.accumulated.set(endpointId, before);
        }
        return this.read(Buffer.from(writePage(families)), 'openmetrics', memory);
      },
    });
    return left;
  }
  async takePage({
    key,
    sender,
    bytes,
    form,
  }: {
    readonly key: string;
    readonly sender: string;
    readonly bytes: Buffer;
    readonly form: Form;
  }): Promise<{ samples: number; problems: number }> {
    let answer = { samples: 0, problems: 0 };
    await this.take({
      key,
      sender: { name: sender, labels: {} },
      at: this.clock.now(),
      read: async (memory) => {
        const result = await this.read(bytes, form, memory);
        if (result.ok)
          answer = { samples: result.fetched.page.values.length, problems: result.fetched.page.problemCount };
        return result;
      },
    });
    return answer;
  }

  private async take({
    key,
    sender,
    at,
    read,
  }: {
    readonly key: string;
    readonly sender: Sender;
    readonly at: number;
    readonly read: (memory: PageMemory, endpointId: number) => Promise<FetchResult>;
  }): Promise<void> {
    const name = senderName(key, sender.name);
    const work = async () => {
      await this.know(key, sender);
      const endpoint = this.endpointAnswers.byName('pushed', name);
      const pushed = endpoint && (await this.readings.push(name, at, (memory) => read(memory, endpoint.id)));
      if (!pushed) throw new Refusal('unavailable', 'This sender cannot be taken in now. Send it again in a while.');
      if (!pushed.result.ok) throw new Refusal('invalid', pushed.result.reason);
      refuseUnlessStored(pushed.taken);
    };
    const own = this.inOrder.get(name) ?? { limit: pLimit(1), users: 0 };
    this.inOrder.set(name, own);
    own.users++;
    try {
      await own.limit(work);
    } finally {
      if (--own.users === 0) this.inOrder.delete(name);
    }
  }
  private async know(key: string, sender: Sender): Promise<void> {
    const own = this.sendersOf(key);
    const known = own.get(sender.name);
    if (known && JSON.stringify(known.labels) === JSON.stringify(sender.labels)) return;
    if (!known && own.size >= MOST_SENDERS)
      throw new Refusal(
        'tooMany',
        `${MOST_SENDERS} senders push with this key already. Give it to fewer, or let them keep one name each.`,
      );
    own.set(sender.name, sender);
    await this.review();
  }
  private async read(bytes: Buffer, form: Form, memory: PageMemory): Promise<FetchResult> {
    const began = performance.now();
    const limits = this.readings.pageLimits;
    const buffer = new PageBuffer(limits);
    buffer.push(bytes);
    const page = await readBuffer(buffer, { form, limits, memory }, turn);
    const durationMs = performance.now() - began;
    if (page.refused) return { ok: false, reason: `The page was refused: ${page.refused.text}.`, durationMs };
    if (page.values.length === 0 && page.problemCount > 0)
      return { ok: false, reason: `Nothing of it could be understood: ${page.problems[0]?.text ?? ''}.`, durationMs };
    const contentType = form === 'openmetrics' ? 'application/openmetrics-text; version=1.0.0' : 'text/plain';
    return { ok: true, fetched: { page, contentType, raw: bytes.subarray(0, 512 * 1024), durationMs } };
  }
}

/** What of a push was not taken, and why the first of it was not. */
export type Left = Pick<PushedPage, 'refused' | 'problem'>;

function refuseUnlessStored(taken: Acceptance | null): void {
  if (taken?.kind === 'accepted' || taken?.kind === 'doubled') return;
  if (taken?.kind === 'tooOld')
    throw new Refusal('invalid', 'What was pushed is older than Zetopsis takes (Admin, Retention and limits).');
  throw new Refusal('unavailable', 'It could not be stored now. Send it again in a while.');
}
