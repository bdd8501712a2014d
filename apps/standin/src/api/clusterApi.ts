import type { IncomingMessage, ServerResponse } from 'node:http';
import { createServer, type Server } from 'node:https';
import type { Socket } from 'node:net';
import { podLog } from '../programs/podLogs.ts';
import type { Answer } from '../programs/podPrograms.ts';
import type { Credentials } from '../tls/certificates.ts';
import { ACCESS_GROUP, METADATA_KIND, METADATA_VERSION } from '../wire-names.ts';
import { type ApiObject, groupVersionOf, KIND_INFO, KINDS, type Kind } from '../world/objects.ts';
import type { Change, ObjectStore } from '../world/store.ts';
import { fieldSelector, labelSelector, type Predicate } from './selectors.ts';

interface Snapshot {
  readonly version: number;
  readonly objects: readonly ApiObject[];
  readonly at: number;
}

const SNAPSHOT_LIFE = 5 * 60_000;
const BOOKMARK_EVERY = 2000;

/** List and watch over HTTPS as the cluster API of a container orchestrator answers them. */
export class ClusterApi {
  readonly server: Server;
  private readonly store: ObjectStore;
  private readonly credentials: Credentials;
  private readonly snapshots = new Map<string, Snapshot>();
  private readonly sockets = new Set<Socket>();
  private snapshotNumber = 0;
  /** Bytes after which the next watch line is cut off in its middle, once. */
  private cutNext = false;

  constructor(store: ObjectStore, credentials: Credentials) {
    this.store = store;
    this.credentials = credentials;
    this.server = createServer({ key: credentials.key, cert: credentials.certificate }, (request, response) =>
      this.answer(request, response),
    );
    this.server.on('secureConnection', (socket) => {
      this.sockets.add(socket);
      socket.on('close', () => this.sockets.delete(socket));
    });
  }

  /** Breaks every open connection at once; with `inMidObject` only when the next change is half written. */
  cut(inMidObject: boolean): void {
    if (inMidObject) this.cutNext = true;
    else for (const socket of this.sockets) socket.destroy();
  }

  private answer(request: IncomingMessage, response: ServerResponse): void {
    const url = new URL(request.url ?? '/', 'https://cluster');
    const path = url.pathname.replace(/\/+$/, '');
    if (['/readyz', '/livez', '/healthz'].includes(path)) {
      response.writeHead(200, { 'content-type': 'text/plain' }).end('ok');
      return;
    }
    const token = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1];
    if (token !== this.credentials.token && token !== this.credentials.narrowToken) {
      send(response, 401, status(401, 'Unauthorized', 'Unauthorized'));
      return;
    }
    if (request.method !== 'GET') {
      if (request.method === 'POST' && path.startsWith(`/apis/${ACCESS_GROUP}/`)) {
        request.resume();
        send(response, 404, status(404, 'NotFound', 'the server could not find the requested resource'));
        return;
      }
      send(response, 405, status(405, 'MethodNotAllowed', 'the stand-in is read only'));
      return;
    }
    const found = discovery(path);
    if (found) {
      send(response, 200, found);
      return;
    }
    const handedOn = /^\/api\/v1\/namespaces\/([^/]+)\/pods\/([^/:]+):(\d+)\/proxy(\/.*)?$/.exec(path);
    if (handedOn) {
      this.handOn(response, handedOn[1]!, handedOn[2]!, Number(handedOn[3]), `${handedOn[4] ?? '/'}${url.search}`);
      return;
    }
    const log = /^\/api\/v1\/namespaces\/([^/]+)\/pods\/([^/]+)\/log$/.exec(path);
    if (log) {
      this.log(response, log[1]!, log[2]!, url.searchParams);
      return;
    }
    const target = resourceAt(path);
    if (!target) {
      send(response, 404, status(404, 'NotFound', 'the server could not find the requested resource'));
      return;
    }
    if (token === this.credentials.narrowToken && (target.kind === 'events' || target.kind === 'daemonsets')) {
      send(
        response,
        403,
        status(
          403,
          'Forbidden',
          `${target.kind} is forbidden: user "zetopsis-narrow" cannot list resource "${target.kind}" at the cluster scope`,
        ),
      );
      return;
    }
    const form: Form = (request.headers.accept ?? '').includes(`as=${METADATA_KIND}`) ? METADATA : WHOLE;
    if (target.name !== undefined) this.get(response, target.kind, target.namespace, target.name, form);
    else if (['true', '1'].includes(url.searchParams.get('watch') ?? ''))
      this.watch(request, response, target, url.searchParams, form);
    else this.list(response, target, url.searchParams, form);
  }

  private log(response: ServerResponse, namespace: string, name: string, query: URLSearchParams): void {
    const pod = this.store.get('pods', namespace, name);
    if (!pod) {
      send(response, 404, status(404, 'NotFound', `pods "${name}" not found`));
      return;
    }
    const container = query.get('container') ?? pod['spec'].containers[0].name;
    const lines = podLog(pod, container, query.get('previous') === 'true');
    if (typeof lines === 'string') {
      send(response, 400, status(400, 'BadRequest', lines.slice(1)));
      return;
    }
    const wanted = Number(query.get('tailLines') ?? lines.length);
    response.writeHead(200, { 'content-type': 'text/plain' }).end(`${lines.slice(-wanted).join('\n')}\n`);
  }

  /** Set by who knows the programs: what a pod answers at a port. */
  programs: (pod: ApiObject, port: number, path: string) => Answer | null = () => null;
  private handOn(response: ServerResponse, namespace: string, name: string, port: number, path: string): void {
    const pod = this.store.get('pods', namespace, name);
    if (!pod) {
      send(response, 404, status(404, 'NotFound', `pods "${name}" not found`));
      return;
    }
    const answer = this.programs(pod, port, path);
    if (answer) response.writeHead(answer.status, { 'content-type': answer.type }).end(answer.body);
    else
      send(
        response,
        503,
        status(503, 'ServiceUnavailable', `error trying to reach service: dial tcp: connection refused`),
      );
  }

  private get(response: ServerResponse, kind: Kind, namespace: string | undefined, name: string, form: Form): void {
    const object = this.store.get(kind, namespace, name);
    if (!object) send(response, 404, status(404, 'NotFound', `${kind} "${name}" not found`));
    else send(response, 200, form.one(kind, object));
  }

  private predicate(target: Target, query: URLSearchParams): Predicate {
    const byField = fieldSelector(query.get('fieldSelector'));
    const byLabel = labelSelector(query.get('labelSelector'));
    return (object) =>
      (target.namespace === undefined || object.metadata.namespace === target.namespace) &&
      byField(object) &&
      byLabel(object);
  }

  private list(response: ServerResponse, target: Target, query: URLSearchParams, form: Form): void {
    const limit = Number(query.get('limit') ?? 0);
    const token = query.get('continue');
    let snapshot: Snapshot;
    let offset = 0;
    let key = '';
    if (token) {
      const [known = '', at] = Buffer.from(token, 'base64url').toString().split(':');
      const kept = this.snapshots.get(known);
      if (!kept) {
        send(
          response,
          410,
          status(410, 'Expired', 'The provided continue parameter is too old to display a consistent list result.'),
        );
        return;
      }
      snapshot = kept;
      key = known;
      offset = Number(at);
    } else {
      const objects = this.store.list(target.kind).filter(this.predicate(target, query));
      snapshot = { version: this.store.version, objects, at: Date.now() };
    }
    const page = limit > 0 ? snapshot.objects.slice(offset, offset + limit) : snapshot.objects;
    const left = snapshot.objects.length - offset - page.length;
    if (left > 0 && key === '') {
      key = String(++this.snapshotNumber);
      this.snapshots.set(key, snapshot);
      for (const [old, { at }] of this.snapshots) if (Date.now() - at > SNAPSHOT_LIFE) this.snapshots.delete(old);
    }
    send(response, 200, {
      ...form.list(target.kind),
      metadata: {
        resourceVersion: String(snapshot.version),
        ...(left > 0
          ? { continue: Buffer.from(`${key}:${offset + page.length}`).toString('base64url'), remainingItemCount: left }
          : {}),
      },
      items: page.map((object) => form.item(target.kind, object)),
    });
  }

  private watch(
    request: IncomingMessage,
    response: ServerResponse,
    target: Target,
    query: URLSearchParams,
    form: Form,
  ): void {
    const matches = this.predicate(target, query);
    const asked = query.get('resourceVersion') ?? '';
    const timeout = Number(query.get('timeoutSeconds') ?? 0) || 300;
    response.writeHead(200, { 'content-type': 'application/json', 'transfer-encoding': 'chunked' });
    response.flushHeaders();
    let last = Number(asked) || this.store.version;
    const line = (type: string, object: unknown) => response.write(`${JSON.stringify({ type, object })}\n`);
    const pass = (change: Change) => {
      last = change.version;
      if (change.kind !== target.kind || !matches(change.object)) return;
      if (this.cutNext && !change.heartbeat) {
        this.cutNext = false;
        const text = JSON.stringify({ type: change.type, object: form.one(change.kind, change.object) });
        response.write(text.slice(0, Math.floor(text.length / 2)), () => request.socket.destroy());
        return;
      }
      line(change.type, form.one(change.kind, change.object));
    };
    if (asked === '' || asked === '0') {
      for (const object of this.store.list(target.kind).filter(matches)) line('ADDED', form.one(target.kind, object));
    } else {
      const missed = this.store.since(Number(asked));
      if (!missed) {
        line('ERROR', status(410, 'Expired', `too old resource version: ${asked}`));
        response.end();
        return;
      }
      for (const change of missed) pass(change);
    }
    const stop = this.store.onChange(pass);
    const bookmarks = query.get('allowWatchBookmarks') === 'true';
    const bookmark = () =>
      line('BOOKMARK', {
        ...form.head(target.kind),
        metadata: { resourceVersion: String(last), creationTimestamp: null },
      });
    const beat = setInterval(() => bookmarks && bookmark(), BOOKMARK_EVERY);
    const finish = () => {
      stop();
      clearInterval(beat);
      clearTimeout(end);
    };
    const end = setTimeout(() => {
      if (bookmarks) bookmark();
      // at once: what changes before the other side has gone away is not written any more
      finish();
      response.end();
    }, timeout * 1000);
    response.on('close', finish);
  }
}

interface Target {
  readonly kind: Kind;
  readonly namespace: string | undefined;
  readonly name: string | undefined;
}

/** /api/v1/pods · /api/v1/namespaces/NS/pods[/NAME] · /apis/GROUP/VERSION/… */
function resourceAt(path: string): Target | null {
  const match =
    /^\/(?:api|apis\/([a-z0-9.]+))\/(v[0-9]+)\/(?:namespaces\/([^/]+)\/([^/]+)|([^/]+))(?:\/([^/]+))?$/.exec(path);
  if (!match) return null;
  const [, group = '', version, namespace, inNamespace, alone, name] = match;
  const plural = inNamespace ?? alone ?? '';
  const kind = KINDS.find(
    (candidate) =>
      candidate === plural && KIND_INFO[candidate].group === group && KIND_INFO[candidate].version === version,
  );
  if (!kind || (namespace !== undefined && !KIND_INFO[kind].namespaced)) return null;
  const decode = (text: string | undefined) => (text === undefined ? undefined : decodeURIComponent(text));
  return { kind, namespace: decode(namespace), name: decode(name) };
}

/** How an object is answered: whole, or its metadata only. */
interface Form {
  head(kind: Kind): object;
  list(kind: Kind): object;
  one(kind: Kind, object: ApiObject): object;
  /** In a list, whose head says what its items are. */
  item(kind: Kind, object: ApiObject): object;
}
const WHOLE: Form = {
  head: (kind) => ({ kind: KIND_INFO[kind].kind, apiVersion: groupVersionOf(kind) }),
  list: (kind) => ({ kind: `${KIND_INFO[kind].kind}List`, apiVersion: groupVersionOf(kind) }),
  one: (kind, object) => ({ ...WHOLE.head(kind), ...object }),
  item: (_kind, object) => object,
};
const METADATA: Form = {
  head: () => ({ kind: METADATA_KIND, apiVersion: METADATA_VERSION }),
  list: () => ({ kind: `${METADATA_KIND}List`, apiVersion: METADATA_VERSION }),
  one: (kind, { metadata }) => ({ ...METADATA.head(kind), metadata }),
  item: (kind, object) => METADATA.one(kind, object),
};

const status = (code: number, reason: string, message: string) => ({
  kind: 'Status',
  apiVersion: 'v1',
  metadata: {},
  status: 'Failure',
  message,
  reason,
  code,
});

function send(response: ServerResponse, code: number, body: unknown): void {
  const text = JSON.stringify(body);
  response.writeHead(code, { 'content-type': 'application/json', 'content-length': Buffer.byteLength(text) }).end(text);
}

const GROUP_VERSIONS = [...new Set(KINDS.map(groupVersionOf))];

function resourceList(groupVersion: string) {
  return {
    kind: 'APIResourceList',
    apiVersion: 'v1',
    groupVersion,
    resources: KINDS.filter((kind) => groupVersionOf(kind) === groupVersion).map((kind) => ({
      name: kind,
      singularName: KIND_INFO[kind].singular,
      namespaced: KIND_INFO[kind].namespaced,
      kind: KIND_INFO[kind].kind,
      verbs: ['get', 'list', 'watch'],
      shortNames: KIND_INFO[kind].short,
    })),
  };
}
function groupOf(groupVersion: string) {
  const [name = '', version = ''] = groupVersion.split('/');
  const one = { groupVersion, version };
  return { name, versions: [one], preferredVersion: one };
}

function discovery(path: string): unknown {
  if (path === '/version')
    return {
      major: '1',
      minor: '31',
      gitVersion: 'v1.31.0',
      gitCommit: '',
      gitTreeState: 'clean',
      buildDate: '2026-01-01T00:00:00Z',
      goVersion: '',
      compiler: '',
      platform: 'linux/amd64',
    };
  if (path === '/api') return { kind: 'APIVersions', versions: ['v1'], serverAddressByClientCIDRs: [] };
  if (path === '/api/v1') return resourceList('v1');
  const groups = GROUP_VERSIONS.filter((groupVersion) => groupVersion !== 'v1');
  if (path === '/apis') return { kind: 'APIGroupList', apiVersion: 'v1', groups: groups.map(groupOf) };
  for (const groupVersion of groups) {
    if (path === `/apis/${groupVersion}`) return resourceList(groupVersion);
    if (path === `/apis/${groupVersion.split('/')[0]}`)
      return { kind: 'APIGroup', apiVersion: 'v1', ...groupOf(groupVersion) };
  }
  return null;
}
