import type { IncomingMessage, ServerResponse } from 'node:http';
import { createServer, type Server } from 'node:https';
import type { Socket } from 'node:net';
import type { Answer } from '../programs/podPrograms.ts';
import type { Credentials } from '../tls/certificates.ts';
import { ACCESS_GROUP, METADATA_KIND, METADATA_VERSION } from '../wire-names.ts';
import { type ApiObject, groupVersionOf, KIND_INFO, type Kind } from '../world/objects.ts';
import type { Change, ObjectStore } from '../world/store.ts';
import type { World } from '../world/world.ts';
import { mayDo, NARROW_RULES, READER_RULES } from './account.ts';
import { discovery, resourceAt, status, type Target } from './discovery.ts';
import { answerLog } from './podLog.ts';
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
      if (!this.granted({ response, token, group: '', resource: 'pods/proxy', verb: 'get' })) return;
      this.handOn({
        response,
        namespace: handedOn[1]!,
        name: handedOn[2]!,
        port: Number(handedOn[3]),
        path: `${handedOn[4] ?? '/'}${url.search}`,
      });
      return;
    }
    const log = /^\/api\/v1\/namespaces\/([^/]+)\/pods\/([^/]+)\/log$/.exec(path);
    if (log) {
      if (!this.granted({ response, token, group: '', resource: 'pods/log', verb: 'get' })) return;
      answerLog({
        response,
        world: this.world,
        pod: this.store.get('pods', log[1]!, log[2]!),
        query: url.searchParams,
      });
      return;
    }
    const target = resourceAt(path);
    if (!target) {
      send(response, 404, status(404, 'NotFound', 'the server could not find the requested resource'));
      return;
    }
    const watched = ['true', '1'].includes(url.searchParams.get('watch') ?? '');
    const verb = target.name !== undefined ? 'get' : watched ? 'watch' : 'list';
    if (!this.granted({ response, token, group: KIND_INFO[target.kind].group, resource: target.kind, verb })) return;
    const form: Form = (request.headers.accept ?? '').includes(`as=${METADATA_KIND}`) ? METADATA : WHOLE;
    if (watched) this.watch({ request, response, target, query: url.searchParams, form });
    else this.list({ response, target, query: url.searchParams, form });
  }

  /** Whether the token's account may; when not, that is answered. */
  private granted({
    response,
    token,
    group,
    resource,
    verb,
  }: {
    readonly response: ServerResponse;
    readonly token: string | undefined;
    readonly group: string;
    readonly resource: string;
    readonly verb: string;
  }): boolean {
    const narrow = token === this.credentials.narrowToken;
    if (mayDo(narrow ? NARROW_RULES : READER_RULES, group, resource, verb)) return true;
    const who = narrow ? 'zetopsis-narrow' : 'zetopsis-reader';
    const text = `${resource} is forbidden: user "${who}" cannot ${verb} resource "${resource}" in API group "${group}"`;
    send(response, 403, status(403, 'Forbidden', text));
    return false;
  }

  /** Set by who knows it: what its containers write. */
  world: World | null = null;
  /** Set by who knows the programs: what a pod answers at a port. */
  programs: (pod: ApiObject, port: number, path: string) => Answer | null = () => null;
  private handOn({
    response,
    namespace,
    name,
    port,
    path,
  }: {
    readonly response: ServerResponse;
    readonly namespace: string;
    readonly name: string;
    readonly port: number;
    readonly path: string;
  }): void {
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

  private predicate(target: Target, query: URLSearchParams): Predicate {
    const byField = fieldSelector(query.get('fieldSelector'));
    const byLabel = labelSelector(query.get('labelSelector'));
    return (object) =>
      (target.namespace === undefined || object.metadata.namespace === target.namespace) &&
      byField(object) &&
      byLabel(object);
  }

  private list({
    response,
    target,
    query,
    form,
  }: {
    readonly response: ServerResponse;
    readonly target: Target;
    readonly query: URLSearchParams;
    readonly form: Form;
  }): void {
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

  private watch({
    request,
    response,
    target,
    query,
    form,
  }: {
    readonly request: IncomingMessage;
    readonly response: ServerResponse;
    readonly target: Target;
    readonly query: URLSearchParams;
    readonly form: Form;
  }): void {
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

function send(response: ServerResponse, code: number, body: unknown): void {
  const text = JSON.stringify(body);
  response.writeHead(code, { 'content-type': 'application/json', 'content-length': Buffer.byteLength(text) }).end(text);
}
