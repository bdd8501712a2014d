import { describe, expect, it } from 'vitest';
import type { PodObject, ServiceObject } from '../inventory/index.ts';
import { readObject } from '../inventory/index.ts';
import { candidatesOf, dresser, fillTemplate, merging, readServes, type Scout, templateProblem } from './index.ts';

describe('what an object says it serves', () => {
  it('is read page by page', () => {
    expect(readServes('9102/metrics every 15s; 8080/status as gate-page').served).toEqual([
      { port: '9102', path: '/metrics', every: 15_000, as: null },
      { port: '8080', path: '/status', every: null, as: 'gate-page' },
    ]);
    expect(readServes('pages as crane every 2m ;').served).toEqual([
      { port: 'pages', path: '/metrics', every: 120_000, as: 'crane' },
    ]);
    expect(readServes('9102/a?b=1,2').served[0]?.path).toBe('/a?b=1,2');
  });
  it.each([
    ['', /names no page/],
    [' ; ', /names no page/],
    ['9102 often', /not of the form/],
    ['9102/x every soon', /how often is written/],
    ['9102/x every 0s', /1 s to 1 h/],
    ['9102/x every 90m', /1 s to 1 h/],
    ['70000/x', /1 to 65535/],
    ['0', /1 to 65535/],
    ['http://x', /not of the form/],
  ])('“%s” is refused with the reason', (text, reason) => {
    const { served, problems } = readServes(text);
    expect(served).toEqual([]);
    expect(problems.join()).toMatch(reason);
  });
  it('keeps what is right beside what is wrong, and does not go on for ever', () => {
    const { served, problems } = readServes(`9102;${'x y;'.repeat(30)}`);
    expect(served).toHaveLength(1);
    expect(problems[0]).toMatch(/31 pages; the first 16 count/);
  });
});

describe('templates', () => {
  const values = {
    names: { pod: 'web-1', namespace: 'tides' },
    labels: { 'a.b/c': 'x' },
    annotations: { note: '{pod}' },
  };
  it('are filled from names, labels and annotations; what is not there is empty; what is filled in is not filled again', () => {
    expect(fillTemplate('{namespace}/{pod}', values)).toBe('tides/web-1');
    expect(fillTemplate('{label.a.b/c}{label.none}{container}', values)).toBe('x');
    expect(fillTemplate('{annotation.note}', values)).toBe('{pod}');
    expect(fillTemplate('as it is', values)).toBe('as it is');
  });
  it('say which place is not known', () => {
    expect(templateProblem('{label.team} of {cluster}')).toBeNull();
    expect(templateProblem('{colour}')).toMatch(/\{colour\} is not known; there are \{cluster\}/);
    expect(templateProblem('{}')).toMatch(/not known/);
    expect(templateProblem('{label.}')).toMatch(/not known/);
  });
});

describe('dressing series', () => {
  it('attaches labels in order; the page’s own of the same name stays beside', () => {
    const dress = dresser({ attach: { node: 'n1', zone: 'north', empty: '' }, drop: [] });
    expect(
      dress('m', [
        ['a', '1'],
        ['zone', 'south'],
      ]),
    ).toEqual([
      ['a', '1'],
      ['node', 'n1'],
      ['page_zone', 'south'],
      ['zone', 'north'],
    ]);
    expect(dress('m', [['zone', 'north']])).toEqual([
      ['node', 'n1'],
      ['zone', 'north'],
    ]);
  });
  it('drops by the form of the metric and of one label, and by nothing else', () => {
    const dress = dresser({
      attach: {},
      drop: [
        { metric: 'debug_*', label: '', is: '' },
        { metric: 'requests.total', label: 'user', is: '*' },
        { metric: '*_bucket', label: 'le', is: '0.*' },
      ],
    });
    expect(dress('debug_a', [])).toBeNull();
    expect(dress('a_debug_a', [])).toEqual([]);
    // a dot is a dot, and a label that is not there is empty
    expect(dress('requestsxtotal', [['user', 'a']])).toEqual([['user', 'a']]);
    expect(dress('requests.total', [])).toBeNull();
    expect(dress('x_bucket', [['le', '0.5']])).toBeNull();
    expect(dress('x_bucket', [['le', '10.5']])).toEqual([['le', '10.5']]);
  });
});

describe('what a scout finds', () => {
  const pod = (name: string, more: { annotations?: object; ports?: object[]; status?: object; labels?: object } = {}) =>
    readObject('pod', {
      metadata: {
        name,
        namespace: 'tides',
        uid: name,
        creationTimestamp: '2026-01-01T00:00:00Z',
        labels: more.labels ?? { app: 'web' },
        annotations: more.annotations ?? {},
      },
      spec: {
        nodeName: 'n1',
        containers: [
          {
            name: 'main',
            ports: more.ports ?? [
              { containerPort: 8080, name: 'http' },
              { containerPort: 9102, name: 'pages' },
            ],
          },
        ],
      },
      status: { phase: 'Running', podIP: '10.0.0.7', ...more.status },
    }) as PodObject; // read as a pod
  const scout = (more: Partial<Scout> = {}): Scout => ({
    cluster: null,
    namespaces: [],
    among: 'pods',
    labels: {},
    annotations: {},
    container: '',
    ports: ['pages'],
    keys: { serves: 'zetopsis/serves', port: 'old/port', path: 'old/path', scheme: 'old/scheme' },
    scheme: 'http',
    path: '/metrics',
    every: 15_000,
    attach: {},
    identity: true,
    route: 'direct',
    ...more,
  });
  const look = (of: Scout, ...pods: PodObject[]) =>
    candidatesOf(of, { cluster: 'seaward', pods, services: [], nodes: [], workloadOf: () => 'deployment:web' });

  it('is a page with the labels of its object', () => {
    const [found] = look(
      scout({ attach: { team: '{label.app}', work: '{workload}', none: '{label.none}' } }),
      pod('a'),
    );
    expect(found?.targets).toEqual([
      {
        name: 'pod tides/a :9102/metrics',
        namespace: 'tides',
        kind: 'pod',
        object: 'a',
        container: 'main',
        scheme: 'http',
        address: '10.0.0.7',
        port: 9102,
        path: '/metrics',
        every: 15_000,
        as: null,
        route: 'direct',
        labels: {
          k8s_namespace_name: 'tides',
          k8s_pod_name: 'a',
          k8s_pod_uid: 'a',
          k8s_node_name: 'n1',
          k8s_container_name: 'main',
          team: 'web',
          work: 'deployment:web',
        },
      },
    ]);
  });
  it.each<[string, Partial<Scout>, PodObject, RegExp]>([
    ['another label', { labels: { app: 'api' } }, pod('a'), /its app is “web”, not “api”/],
    ['no such label', { labels: { tier: '' } }, pod('a'), /it has no tier/],
    ['no such annotation', { annotations: { x: '' } }, pod('a'), /it has no x/],
    ['no such port', { ports: ['none'] }, pod('a'), /no port called none; there are http, pages/],
    ['no port at all', { ports: [] }, pod('a', { ports: [] }), /it declares no port; name one/],
    ['not started', {}, pod('a', { status: { phase: 'Pending' } }), /not started yet/],
    ['ended', {}, pod('a', { status: { phase: 'Failed' } }), /it has ended/],
    ['no address', {}, pod('a', { status: { podIP: undefined } }), /no address yet/],
    ['another container', { container: 'side' }, pod('a'), /no container side/],
    [
      'a bad wish',
      {},
      pod('a', { annotations: { 'zetopsis/serves': '9102 often' } }),
      /zetopsis\/serves: “9102 often”/,
    ],
    ['a bad scheme', {}, pod('a', { annotations: { 'old/scheme': 'ftp' } }), /old\/scheme is “ftp”/],
  ])('leaves out with its reason: %s', (_, more, own, reason) => {
    const [candidate] = look(scout(more), own);
    expect(candidate?.targets).toEqual([]);
    expect(candidate?.leftOut.join()).toMatch(reason);
  });
  it('follows what the object says, our own form before others', () => {
    const says = (annotations: object) =>
      look(scout(), pod('a', { annotations }))[0]!.targets.map(({ name, every, as, scheme }) => [
        name,
        every,
        as,
        scheme,
      ]);
    expect(says({ 'zetopsis/serves': '9102/a every 5s; http/b as crane', 'old/port': '1' })).toEqual([
      ['pod tides/a :9102/a', 5000, null, 'http'],
      ['pod tides/a :8080/b', 15_000, 'crane', 'http'],
    ]);
    expect(says({ 'old/port': '7000', 'old/path': 'x', 'old/scheme': 'https' })).toEqual([
      ['pod tides/a :7000/x', 15_000, null, 'https'],
    ]);
  });
  it('is nothing in other clusters and namespaces', () => {
    expect(look(scout({ cluster: 'landward' }), pod('a'))).toEqual([]);
    expect(look(scout({ namespaces: ['berths'] }), pod('a'))).toEqual([]);
  });
  it('warns of pages whose labels would merge, and only of those', () => {
    const two = [pod('a'), pod('b')];
    expect(merging(look(scout(), ...two))).toEqual([]);
    expect(merging(look(scout({ identity: false, attach: { app: '{label.app}' } }), ...two))).toEqual([
      { labels: { app: 'web' }, of: ['pod tides/a :9102/metrics', 'pod tides/b :9102/metrics'] },
    ]);
  });
  it('looks among services, at their ports', () => {
    const service = readObject('service', {
      metadata: { name: 'web', namespace: 'tides', uid: 's' },
      spec: {
        clusterIP: '10.96.0.1',
        ports: [
          { name: 'pages', port: 81, protocol: 'TCP' },
          { name: 'u', port: 53, protocol: 'UDP' },
        ],
      },
    }) as ServiceObject; // read as a service
    const headless = { ...service, name: 'none', address: null };
    const found = candidatesOf(scout({ among: 'services', ports: [] }), {
      cluster: 'seaward',
      pods: [],
      services: [service, headless],
      nodes: [],
      workloadOf: () => '',
    });
    expect(found[0]?.targets.map(({ name, labels }) => [name, labels['service_name']])).toEqual([
      ['service tides/web :81/metrics', 'web'],
    ]);
    expect(found[1]?.leftOut[0]).toMatch(/look among its pods/);
  });
});
