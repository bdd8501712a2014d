import { createHash } from 'node:crypto';
import type { EndpointDocument, PushDocument, ScoutDocument } from '@zetopsis/contract';
import type { PageMemory } from '@zetopsis/core/exposition';
import { type Candidate, type Dress, OBJECT_LABELS, PLAIN, type Scout, type Target } from '@zetopsis/core/scouting';
import type { DurationMs } from '@zetopsis/core/units';
import type { FetchResult } from './fetched.ts';

/** What proves who asks for a page. */
export type Proof =
  | { readonly by: 'nothing' }
  | { readonly by: 'bearer'; readonly token: string }
  | { readonly by: 'basic'; readonly user: string; readonly password: string }
  | { readonly by: 'certificate'; readonly certificate: string; readonly key: string }
  /** The token of the cluster that it belongs to, or through which it is reached. */
  | { readonly by: 'cluster' };

/** One endpoint as it is to be read. */
export interface EndpointPlan {
  readonly id: number;
  readonly kind: 'node' | 'given' | 'found' | 'pushed' | 'own';
  /** The cluster it belongs to; null for what is outside of all. */
  readonly connectionId: string | null;
  /** The node, the name it was given, or what a scout calls it. */
  readonly name: string;
  /** For who may see it; null for what is nobody's in particular. */
  readonly namespace: string | null;
  readonly scout: string | null;
  readonly group: string;
  readonly url: URL;
  /** The cluster through whose API it is read; null when directly. */
  readonly through: string | null;
  readonly proof: Proof;
  readonly authority: string;
  readonly intervalMs: number;
  readonly timeoutMs: number | null;
  readonly dress: Dress;
  readonly use: EndpointDocument['use'];
  /** Answers its page where it is not asked over the network: Zetopsis' own. */
  readonly page?: (memory: PageMemory) => Promise<FetchResult>;
  /** The translator that the page needs, and there is none yet. */
  readonly as: string | null;
}
export type PlanDraft = Omit<EndpointPlan, 'id'>;

/** Two plans of the same print are read the same way. */
export const printOf = ({ url, ...plan }: PlanDraft): string =>
  createHash('sha256')
    .update(JSON.stringify([url.href, plan]))
    .digest('base64');

export const givenPlan = (
  name: string,
  document: EndpointDocument,
  secret: string,
  intervalMs: DurationMs,
): PlanDraft => ({
  kind: 'given',
  connectionId: null,
  name,
  namespace: null,
  scout: null,
  group: document.group,
  url: new URL(document.address),
  through: document.through,
  proof: document.through !== null ? { by: 'cluster' } : proofOf(document, secret),
  authority: document.authority,
  intervalMs,
  // waiting longer than until the next reading helps nobody
  timeoutMs: document.timeoutSeconds === null ? null : Math.min(document.timeoutSeconds * 1000, intervalMs),
  dress: {
    attach: { ...(document.host === '' ? {} : { [OBJECT_LABELS.host]: document.host }), ...document.labels },
    drop: document.drop,
  },
  use: document.use,
  as: null,
});

function proofOf(document: Pick<EndpointDocument, 'proof' | 'user' | 'certificate'>, secret: string): Proof {
  switch (document.proof) {
    case 'none':
      return { by: 'nothing' };
    case 'bearer':
      return { by: 'bearer', token: secret };
    case 'basic':
      return { by: 'basic', user: document.user, password: secret };
    case 'certificate':
      return { by: 'certificate', certificate: document.certificate, key: secret };
  }
}

export const scoutOf = (document: ScoutDocument, every: DurationMs): Scout => ({ ...document, every });

/** Where a target is read: an object's own address, or its place in its cluster's API. Null where what the object says makes none. */
export function targetUrl({ kind, object, namespace, scheme, address, port, path, route }: Target): URL | null {
  const host = address.includes(':') ? `[${address}]` : address;
  const place = kind === 'node' ? 'node' : `${namespace}.${kind}`;
  const url = `${scheme}://${route === 'direct' ? host : `${object}.${place}`}:${port}${path}`;
  return URL.canParse(url) ? new URL(url) : null;
}
const foundPlan = ({
  target,
  url,
  scout,
  connection,
}: {
  readonly target: Target;
  readonly url: URL;
  readonly scout: { key: string; document: ScoutDocument; secret: string };
  readonly connection: { id: string; name: string };
}): PlanDraft => ({
  kind: 'found',
  connectionId: connection.id,
  name: target.name,
  namespace: target.namespace,
  scout: scout.key,
  group: scout.document.group,
  url,
  through: target.route === 'direct' ? null : connection.name,
  proof: target.route === 'direct' ? proofOf({ certificate: '', ...scout.document }, scout.secret) : { by: 'cluster' },
  authority: scout.document.authority,
  intervalMs: target.every,
  timeoutMs: null,
  dress: { attach: target.labels, drop: scout.document.drop },
  use: 'read',
  as: target.as,
});

/** What a scout's finds are read as; what makes no address is left out. */
export const foundPlans = (
  candidates: readonly Candidate[],
  scout: { readonly key: string; readonly document: ScoutDocument; readonly secret: string },
  connection: { readonly id: string; readonly name: string },
): PlanDraft[] =>
  candidates
    .flatMap(({ targets }) => targets)
    .flatMap((target) => {
      const url = targetUrl(target);
      return url === null ? [] : [foundPlan({ target, url, scout, connection })];
    });

/** Names of who pushes: the key's, and what tells one sender from another. */
export const senderName = (key: string, sender: string): string => `${key}: ${sender}`;
export function partsOf(name: string): { key: string; sender: string } {
  const [, key = '', sender = ''] = /^([^:]*): (.*)$/s.exec(name) ?? [];
  return { key, sender };
}
export const pushedPlan = ({
  key,
  sender,
  document,
  connectionId,
}: {
  readonly key: string;
  readonly sender: { name: string; labels: Readonly<Record<string, string>> };
  readonly document: PushDocument;
  readonly connectionId: string | null;
}): PlanDraft => ({
  kind: 'pushed',
  connectionId,
  name: senderName(key, sender.name),
  namespace: document.namespace,
  scout: null,
  group: '',
  url: new URL(`push:${encodeURIComponent(key)}`),
  through: null,
  proof: { by: 'nothing' },
  authority: '',
  intervalMs: document.intervalSeconds * 1000,
  timeoutMs: null,
  dress: {
    attach: {
      ...sender.labels,
      ...(document.namespace === null ? {} : { [OBJECT_LABELS.namespace]: document.namespace }),
      ...document.labels,
    },
    drop: document.drop,
  },
  use: 'read',
  as: null,
});

/** Links between workloads, worked out here from what programs tell: pushed by nobody's key. */
export const LINKS_SENDER = 'links between workloads';
/** The same by what their machines count, by address. */
export const WIRES_SENDER = 'links by address';
export const linksPlan = (intervalMs: DurationMs, name = LINKS_SENDER): PlanDraft => ({
  kind: 'pushed',
  connectionId: null,
  name,
  namespace: null,
  scout: null,
  group: '',
  url: new URL(name === LINKS_SENDER ? 'push:links' : 'push:wires'),
  through: null,
  proof: { by: 'nothing' },
  authority: '',
  intervalMs,
  timeoutMs: null,
  dress: PLAIN,
  use: 'read',
  as: null,
});
