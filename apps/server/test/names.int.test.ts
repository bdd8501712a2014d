import type { InventoryObject } from '@zetopsis/core/inventory';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { InventoryService } from '../src/keeping/inventory/inventory.service.ts';
import { connectionTo, owned, people, type Served, serve, standIn, until, type Visitor, withToken } from './harness.ts';

const HOUR = 3_600_000;

const TRACE = '4bf92f3577b34da6a3ce929d0e0e4736';
/** Lines and spans of others, and spans of one trace of which only the first may be seen. */
function toldBy(key: string) {
  const resource = (service: string, namespace: string) => ({
    attributes: Object.entries({ 'service.name': service, 'k8s.namespace.name': namespace }).map(
      ([name, stringValue]) => ({
        key: name,
        value: { stringValue },
      }),
    ),
  });
  const now = `${Date.now() - 60_000}000000`;
  const span = (name: string, spanId: string) => ({
    traceId: TRACE,
    spanId,
    name,
    kind: 2,
    startTimeUnixNano: now,
    endTimeUnixNano: now,
    status: { code: 2, message: `${name} failed` },
  });
  const hidden = resource(`hidden-service-${key}`, 'tides');
  return {
    logs: {
      resourceLogs: [
        {
          resource: hidden,
          scopeLogs: [{ logRecords: [{ timeUnixNano: now, body: { stringValue: `hidden-line of ${key}` } }] }],
        },
      ],
    },
    traces: {
      resourceSpans: [
        {
          resource: hidden,
          scopeSpans: [{ spans: [span(`hidden-step of ${key}`, `${key.length}`.padStart(16, 'a'))] }],
        },
        ...(key === 'open-of-cluster'
          ? [{ resource: resource('gate', 'ticketing'), scopeSpans: [{ spans: [span('GET /seats', 'b'.repeat(16))] }] }]
          : []),
      ],
    },
  };
}

/** What routes that change something answer somebody without a grant for it is proven route by route in access.int. */
const REFUSES = null;

/**
 * Every route with what is asked of it by somebody who may see only `ticketing` and `boarding`: now, at a past moment, about
 * what is gone. A route without an entry here fails the test.
 */
function asks(seen: {
  endpoints: readonly number[];
  find: readonly string[];
}): Readonly<Record<string, readonly string[] | typeof REFUSES>> {
  const live = `from=${Date.now() - HOUR}`;
  const past = `from=${Date.now() - HOUR}&to=${Date.now() - 30_000}`;
  const windows = [live, past, `${live}&shift=${HOUR}`];
  const paths = [
    'seaward',
    'seaward/ticketing',
    'seaward/ticketing/deployment:booking-front',
    'seaward/boarding',
    'seaward/node:seaward-01',
    'seaward/node:seaward-07',
    'seaward/team:ferries',
    'seaward/hidden-past',
    'seaward/volume:hidden-volume',
    'seaward/tides',
    'seaward/tides/deployment:tide-model',
  ];
  const inPaths = (route: string, more = '') =>
    paths.flatMap((path) => windows.map((window) => `${route}?in=${path}&${window}${more}`));
  const resources = ['received', 'sent', 'files', 'volumes', 'slots', 'throttled', 'restarts', 'memoryEnds'];
  const ofEndpoints = (what: string) => seen.endpoints.map((id) => `endpoints/${id}/${what}`);
  return {
    'GET /api/session': ['session'],
    'GET /api/now': ['now?in=', ...inPaths('now')],
    'GET /api/usage': [
      ...inPaths('usage'),
      ...['node', 'team'].flatMap((by) => inPaths('usage', `&by=${by}`)),
      ...resources.map((of) => `usage?in=seaward&${live}&of=${of}`),
      `usage?in=&${live}`,
    ],
    'GET /api/usage/table': [
      ...['cluster', 'node', 'namespace', 'workload', 'pod', 'container'].flatMap((level) =>
        inPaths('usage/table', `&level=${level}`),
      ),
      `usage/table?in=seaward&${live}&level=pod&find=tide`,
    ],
    'GET /api/usage/object': inPaths('usage/object'),
    'GET /api/usage/tape': ['usage/tape?in=', ...inPaths('usage/tape')],
    'GET /api/usage/versions': inPaths('usage/versions'),
    'GET /api/usage/operations': inPaths('usage/operations'),
    'GET /api/usage/log': ['usage/log?in=seaward/tides&pod=tide-model-0&container=model'],
    'GET /api/records/lines': inPaths('records/lines'),
    'GET /api/records/traces': inPaths('records/traces'),
    'GET /api/records/traces/:id': windows.map((window) => `records/traces/${TRACE}?${window}`),
    'GET /api/map': windows.map((window) => `map?${window}`),
    'GET /api/map/link': [
      ['ticketing/deployment:booking-front', 'ticketing/deployment:seat-ledger'],
      ['ticketing/deployment:booking-front', 'tides/deployment:tide-model'],
      ['tides/deployment:gauge-reader', 'tides/deployment:tide-model'],
    ].flatMap(([caller, answerer]) =>
      windows.map((window) => `map/link?caller=seaward/${caller}&answerer=seaward/${answerer}&${window}`),
    ),
    'GET /api/masks': ['masks'],
    'GET /api/follows': ['follows'],
    'GET /api/forwards': ['forwards'],
    'GET /api/find': seen.find.map((name) => `find?q=${encodeURIComponent(name)}`),
    'GET /api/sources': ['sources'],
    'GET /api/connections': ['connections'],
    'GET /api/coverage': ['coverage', 'coverage?cluster=seaward', 'coverage?only=all'],
    'GET /api/census': ['census', 'census?find=hidden'],
    'GET /api/rules': ['rules'],
    'GET /api/rules/:key': ['readyPods', 'containerMemory', 'hidden-rule', 'names-others', 'expects-others'].map(
      (key) => `rules/${key}`,
    ),
    'GET /api/rules/:key/late': ['readyPods', 'hidden-rule'].map((key) => `rules/${key}/late`),
    'GET /api/rules/:key/quieter': ['readyPods', 'hidden-rule'].map((key) => `rules/${key}/quieter`),
    'GET /api/rules/rehearsals/:id': ['rules/rehearsals/nobodys'],
    'GET /api/channels': ['channels'],
    'GET /api/hushes': ['hushes'],
    'GET /api/stretches': ['stretches', 'stretches?from=0&to=8640000000000'],
    'GET /api/deliveries': ['deliveries', 'deliveries?text=hidden', 'deliveries?state=dead'],
    'GET /api/noise': ['noise'],
    'GET /api/imports': ['imports'],
    'GET /api/tokens': ['tokens'],
    'GET /api/views': ['views'],
    'GET /api/vitals/:key': ['vitals/seaward'],
    'GET /api/criticality/:key': ['criticality/seaward'],
    'GET /api/live': ['live'],
    'GET /api/self/metrics': ['self/metrics'],
    'GET /api/endpoints/:id/page': ofEndpoints('page'),
    'GET /api/endpoints/:id/history': ofEndpoints('history'),
    'GET /api/endpoints/:id/metrics': ofEndpoints('metrics'),
    'POST /api/pods/ports': ['pods/ports'],
    'GET /api/given': ['given'],
    'GET /api/endpoints/:id/series': ofEndpoints('series').map((path) => `${path}?metric=hidden_lamp_turns`),
    'GET /api/endpoints/:id/dependants': ofEndpoints('dependants'),
    'GET /api/intervals': ['intervals'],
    'GET /api/scouts': ['scouts'],
    'GET /api/scouts/:key/dependants': ['scouts/pages/dependants'],
    'GET /api/push-keys': ['push-keys'],
    'GET /api/host-vitals': ['host-vitals'],
    'GET /api/measures/metrics': [
      'measures/metrics',
      ...seen.find.map((name) => `measures/metrics?find=${encodeURIComponent(name)}`),
    ],
    'GET /api/measures/labels': [
      ...['k8s_namespace_name', 'k8s_pod_name', 'k8s_pod_uid', 'k8s_container_name', 'k8s_node_name', 'cluster'].map(
        (label) => `measures/labels?of=vital&name=container.cpu.time&label=${label}`,
      ),
      'measures/labels?of=vital&name=node.cpu.time&label=k8s_node_name',
      'measures/labels?of=metric&name=hidden_lamp_turns&label=lamp',
    ],
    'GET /api/measures/saved': ['measures/saved'],
    'GET /api/measures/saved/:key/versions': ['measures/saved/hidden-measure/versions'],
    'GET /api/admin/audit': ['admin/audit'],
    'GET /api/admin/people': ['admin/people'],
    'GET /api/admin/people/:id/tokens': ['admin/people/00000000-0000-4000-8000-000000000000/tokens'],
    'GET /api/admin/people/:id/sight': ['admin/people/00000000-0000-4000-8000-000000000000/sight'],
    'GET /api/admin/grants': ['admin/grants'],
    'GET /api/admin/teams': ['admin/teams'],
    'GET /api/admin/configuration': ['admin/configuration?as=yaml'],
    'GET /api/admin/revisions': ['admin/revisions'],
    'GET /api/admin/revisions/:id': ['admin/revisions/1'],
    'GET /api/admin/retention': ['admin/retention'],
  };
}

describe('of what belongs to others', () => {
  let served: Served;
  let world: Awaited<ReturnType<typeof standIn>>;
  let database: pg.Client;
  let all: Awaited<ReturnType<typeof people>>;
  /** Names that only others may read. */
  let hidden: Set<string>;
  const get = <T>(kind: abstract new (...args: never[]) => T): T => served.app.get<T>(kind, { strict: false });

  beforeAll(async () => {
    served = await serve();
    world = await standIn();
    all = await people(served);
    const { administrator } = all;
    await administrator.ask('POST', 'admin/teams', {
      name: 'Hidden Tides',
      email: 'tides@skerrivale.test',
      members: [],
      owns: [owned('tides'), owned('hidden-past')],
    });
    const kept = await administrator.ask('POST', 'measures/saved', {
      title: 'hidden-measure',
      note: 'of Hidden Tides',
      team: 'hidden-tides',
      text: 'read hidden_lamp_turns',
    });
    expect(kept.status).toBe(201);
    for (const [name, more] of [
      ['hidden-rule', { team: 'hidden-tides', note: 'hidden-note' }],
      ['names others', { tells: 'hidden-tides', applies: { namespaces: ['hidden-past'], teams: ['hidden-tides'] } }],
      [
        'expects others',
        {
          when: { is: 'expected', names: ['hidden-lantern'] },
          applies: { clusters: ['seaward'], namespaces: ['hidden-past'] },
        },
      ],
    ] as const) {
      const made = await administrator.ask('POST', 'rules', {
        name,
        when: { is: 'finding' },
        levels: { warning: {} },
        ...more,
      });
      expect([name, made.status]).toEqual([name, 201]);
    }
    for (const more of [
      { team: 'hidden-tides', reason: 'hidden-reason' },
      { reason: 'of everybody', rules: ['hidden-rule'], applies: { namespaces: ['tides'], teams: ['hidden-tides'] } },
    ])
      expect((await administrator.ask('POST', 'hushes', { when: { is: 'maintenance' }, ...more })).status).toBe(201);
    for (const more of [
      { scope: ['seaward', 'tides'] },
      { scope: [], note: 'hidden-note' },
      { scope: ['seaward'], team: 'hidden-tides' },
    ])
      expect(
        (
          await administrator.ask('POST', 'stretches', {
            kind: 'load',
            title: 'hidden-stretch',
            from: new Date().toISOString(),
            ...more,
          })
        ).status,
      ).toBe(201);
    const channel = { name: 'hidden-channel', team: 'hidden-tides', address: 'http://hidden-hooks.test/x' };
    expect((await administrator.ask('POST', 'channels', { document: channel })).status).toBe(201);
    const {
      body: { id },
    } = await administrator.ask('POST', 'connections', connectionTo(world));
    const follow = { cluster: 'seaward', namespace: 'tides', workloads: ['gauge-reader'], note: 'hidden-follow' };
    expect((await administrator.ask('POST', 'follows', follow)).status).toBe(201);
    const mask = { title: 'hidden-mask', team: 'hidden-tides', pattern: 'hidden-[a-z]+-pattern' };
    expect((await administrator.ask('POST', 'masks', mask)).status).toBe(201);
    const document = { team: null, namespace: null, labels: {}, use: 'on' };
    const senders = [
      ['hidden-of-all', { ...document, cluster: null }],
      ['hidden-of-cluster', { ...document, cluster: 'seaward' }],
      // the key is known to whoever has figures by it
      ['open-of-cluster', { ...document, cluster: 'seaward' }],
      ['hidden-of-space', { ...document, cluster: 'seaward', namespace: 'tides' }],
    ] as const;
    for (const [key, own] of senders) {
      const made = await administrator.ask('PUT', `push-keys/${key}`, own);
      const pushed = await fetch(`${served.base}/api/push/page/hidden-sender-${key}`, {
        method: 'POST',
        headers: { authorization: `Bearer ${made.body.made.token}`, 'content-type': 'text/plain' },
        body: `hidden_lamp_turns{k8s_namespace_name="tides",lamp="hidden-lens"} 1\n`,
      });
      expect([key, pushed.status]).toEqual([key, 200]);
      for (const [signal, body] of Object.entries(toldBy(key))) {
        const told = await fetch(`${served.base}/api/push/v1/${signal}`, {
          method: 'POST',
          headers: { authorization: `Bearer ${made.body.made.token}`, 'content-type': 'application/json' },
          body: JSON.stringify(body),
        });
        expect([key, signal, told.status, await told.text()]).toEqual([key, signal, 200, '{}']);
      }
    }
    await administrator.ask('POST', 'given', {
      endpoints: [
        {
          key: 'hidden-lamp',
          document: { address: 'http://127.0.0.1:9/hidden-page', host: 'hidden-host', intervalSeconds: 1 },
          secret: '',
        },
      ],
    });
    await until('everything was listed', async () => {
      const { columns } = await all.reader.get(`usage?in=seaward&from=${Date.now() - HOUR}`);
      return columns[1]?.rows.some(({ key }: { key: string }) => key === 'tides');
    });
    await until('pages were read', async () =>
      (await all.reader.get('sources')).endpoints.some(({ state }: { state: string }) => state === 'read'),
    );
    database = new pg.Client(served.config.databaseUrl);
    await database.connect();
    // what is gone, and what belongs to no namespace by itself
    const was = (kind: string, name: string, namespace: string | null, more: object) =>
      database.query(
        `insert into object_version (connection_id, uid, from_ms, from_earliest_ms, to_ms, to_earliest_ms, kind, namespace, name, object)
         values ($1, $2, $3, $3, $4, $4, $5, $6, $7, $8)`,
        [
          id,
          `uid-${name}`,
          Date.now() - HOUR,
          Date.now() - 60_000,
          kind,
          namespace,
          name,
          {
            kind,
            uid: `uid-${name}`,
            name,
            namespace,
            createdAt: Date.now() - HOUR,
            labels: {},
            annotations: {},
            ...more,
          },
        ],
      );
    await was('namespace', 'hidden-past', null, {});
    await was('persistent volume', 'hidden-volume', null, { claim: { namespace: 'tides', name: 'hidden-claim' } });
    await was('persistent volume', 'hidden-orphan', null, { claim: null });
    const inventory = get(InventoryService).cluster(id);
    const names = new Map<string, Set<string>>();
    const note = (name: string, namespace: string) => {
      const spaces = names.get(name) ?? new Set();
      names.set(name, spaces.add(namespace));
    };
    const spaceOf = (object: InventoryObject) =>
      object.kind === 'namespace'
        ? object.name
        : object.kind === 'persistent volume'
          ? (object.claim?.namespace ?? 'nobody')
          : object.namespace;
    for (const kind of [
      'namespace',
      'pod',
      'deployment',
      'stateful set',
      'daemon set',
      'job',
      'cron job',
      'service',
      'volume claim',
      'persistent volume',
      'config map',
      'secret',
      'quota',
    ] as const)
      for (const object of inventory.list(kind)) note(object.name, spaceOf(object) ?? '');
    const own = new Set(['ticketing', 'boarding']);
    hidden = new Set(
      [...names]
        .filter(([name, spaces]) => name.length > 4 && [...spaces].every((space) => !own.has(space)))
        .map(([name]) => name),
    );
    for (const word of ['hidden-', 'Hidden Tides', 'hidden_lamp', 'tides@skerrivale']) hidden.add(word);
    // words that stand in others' names and in one's own, or in words of ours
    for (const word of ['queue', 'registry']) hidden.delete(word);
    expect(hidden.size).toBeGreaterThan(100);
  });
  afterAll(async () => {
    await database.end();
    await served.close();
    await world.close();
  });

  const routesOf = () => {
    interface Layer {
      route?: { path: string; stack: { method?: string }[] };
    }
    const router = (served.app.getHttpAdapter().getInstance() as { router: { stack: Layer[] } }).router;
    const routes = router.stack.flatMap(({ route }) =>
      route ? route.stack.map(({ method }) => `${(method ?? '').toUpperCase()} ${route.path}`) : [],
    );
    return [
      ...new Set(routes.filter((route) => /^(GET|POST \/api\/pods)/.test(route) && route.includes('/api/'))),
    ].sort();
  };
  /** The text of an answer; of news, what comes in two seconds. */
  const textOf = async (asker: Visitor, path: string): Promise<string> => {
    if (path === 'pods/ports')
      return JSON.stringify(
        (await asker.ask('POST', path, { cluster: 'seaward', namespace: 'tides', pod: 'tide-model-0' })).body,
      );
    if (path !== 'live') {
      const { body, status } = await asker.ask('GET', path);
      if (status >= 500) throw new Error(`${path} answered ${status}`);
      return JSON.stringify(body);
    }
    const response = await fetch(`${served.base}/api/live`, {
      headers: { cookie: asker.session },
      signal: AbortSignal.timeout(2000),
    });
    let text = '';
    try {
      for await (const piece of response.body ?? []) text += Buffer.from(piece).toString();
    } catch {
      // it goes on for ever
    }
    return text;
  };

  it('no name stands in any answer of any route, now, in the past, or of what is gone', async () => {
    const { endpoints } = await all.administrator.get('sources');
    const table = asks({
      endpoints: endpoints
        .filter(({ kind, name }: { kind: string; name: string }, i: number) => kind !== 'node' || i < 3 || name === '')
        .map(({ id }: { id: number }) => id),
      find: [...hidden, 'tide', 'hidden', 'pier', 'lamp'],
    });
    expect(Object.keys(table).sort()).toEqual(routesOf());
    const askers = {
      developer: all.developer,
      'own token': await withToken(served, all.developer, { level: 'read', cluster: 'seaward' }),
      nobody: all.nobody,
    };
    const told: string[] = [];
    let asked = 0;
    for (const [who, asker] of Object.entries(askers))
      for (const [route, paths] of Object.entries(table))
        for (const path of paths ?? []) {
          if (who !== 'developer' && route === 'GET /api/find' && asked % 7 !== 0) continue;
          const text = await textOf(asker, path);
          asked++;
          // a refusal names what was asked for; a search answers only with what it found
          const given = path.startsWith('find')
            ? ''
            : `${decodeURIComponent(path)} ${path === 'pods/ports' ? 'tides tide-model-0' : ''}`;
          const named = [...hidden].find((name) => text.includes(name) && !given.includes(name));
          if (named !== undefined)
            told.push(
              `${who}: ${path} names ${named}: …${text.slice(Math.max(0, text.indexOf(named) - 60), text.indexOf(named) + 40)}`,
            );
        }
    console.log(`${asked} questions, ${hidden.size} names`);
    expect(told).toEqual([]);
  });
});
