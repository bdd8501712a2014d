import { describe, expect, it } from 'vitest';
import { type PodObject, readObject } from '../inventory/index.ts';
import { mainOf, type Purpose, purposeOf } from './purpose.ts';

type Spec = Record<string, unknown>;
const port = (containerPort: number, name = '') => ({ containerPort, name });
const mount = (name: string, mountPath: string) => ({ name, mountPath });
const shared = (name: string) => ({ name, emptyDir: {} });
const main = (more: Spec = {}): Spec => ({ name: 'berth', image: 'a/berth:1', ports: [port(8080, 'http')], ...more });
const beside = (more: Spec): Spec => ({ name: 'second', image: 'a/second:1', ...more });

/** Pods of other shapes than the world's, with what their second container truly is for; null: it has work of its own. */
const SHAPES: readonly (readonly [what: string, truth: Purpose | null, spec: Spec])[] = [
  [
    'tails a shared directory',
    'forwarder of lines',
    {
      containers: [
        main({ volumeMounts: [mount('out', '/var/log/berth')] }),
        beside({ args: ['tail', '-F', '/in/berth.log'], volumeMounts: [mount('out', '/in')] }),
      ],
      volumes: [shared('out')],
    },
  ],
  [
    'ships files with settings of its own',
    'forwarder of lines',
    {
      containers: [
        main({ volumeMounts: [mount('data', '/srv/logs')] }),
        beside({
          args: ['--settings=/etc/ship/ship.conf'],
          volumeMounts: [mount('data', '/srv/logs'), mount('settings', '/etc/ship')],
        }),
      ],
      volumes: [shared('data'), { name: 'settings', configMap: { name: 'ship' } }],
    },
  ],
  [
    'reads the node’s log directory',
    'forwarder of lines',
    {
      containers: [main(), beside({ volumeMounts: [mount('node-logs', '/host')] })],
      volumes: [{ name: 'node-logs', hostPath: { path: '/var/log/pods' } }],
    },
  ],
  [
    'lasts beside it from the start, and follows a file',
    'forwarder of lines',
    {
      containers: [main({ volumeMounts: [mount('out', '/out')] })],
      initContainers: [
        beside({
          restartPolicy: 'Always',
          command: ['/follow', '--file', '/out/app.log'],
          volumeMounts: [mount('out', '/out')],
        }),
      ],
      volumes: [shared('out')],
    },
  ],
  ['listens for telemetry', 'collector', { containers: [main(), beside({ ports: [port(4317), port(4318)] })] }],
  [
    'listens for telemetry with settings, and has metrics of its own',
    'collector',
    {
      containers: [
        main(),
        beside({
          ports: [port(4318, 'in'), port(8888, 'metrics')],
          args: ['--config=/etc/c/c.yaml'],
          volumeMounts: [mount('c', '/etc/c')],
        }),
      ],
      volumes: [{ name: 'c', configMap: { name: 'c' } }],
    },
  ],
  [
    'has a port that is named after spans',
    'collector',
    { containers: [main(), beside({ ports: [port(9411, 'spans')], args: ['--pipeline', 'all'] })] },
  ],
  [
    'sends telemetry of another port on',
    'collector',
    {
      containers: [
        main(),
        beside({ ports: [port(14250, 'otlp-grpc')], env: [{ name: 'OTLP_ENDPOINT', value: 'x:1' }] }),
      ],
    },
  ],
  [
    'turns a status page into metrics',
    'translator',
    {
      containers: [
        main({ ports: [port(6000, 'store')] }),
        beside({ ports: [port(9121, 'metrics')], args: ['--target=localhost:6000'] }),
      ],
    },
  ],
  [
    'turns a page into metrics, told by its environment',
    'translator',
    {
      containers: [
        main(),
        beside({
          ports: [port(9113, 'metrics')],
          env: [{ name: 'SCRAPE_URI', value: 'http://127.0.0.1:8080/status' }],
        }),
      ],
    },
  ],
  [
    'reads a base by a secret',
    'translator',
    {
      containers: [
        main({ ports: [port(5432, 'base')] }),
        beside({
          ports: [port(9187, 'http-metrics')],
          env: [{ name: 'DATA_SOURCE_NAME', valueFrom: { secretKeyRef: { name: 's', key: 'k' } } }],
        }),
      ],
    },
  ],
  [
    'has stats of a queue',
    'translator',
    {
      containers: [
        main({ ports: [port(5672, 'queue')] }),
        beside({ ports: [port(9419, 'stats')], command: ['/read', 'http://localhost:15672'] }),
      ],
    },
  ],
  [
    'hands on to the main one',
    'proxy',
    {
      containers: [
        main(),
        beside({ ports: [port(8443, 'https')], args: ['--listen=:8443', '--upstream=http://127.0.0.1:8080'] }),
      ],
    },
  ],
  [
    'asks who comes before it lets through',
    'proxy',
    {
      containers: [
        main(),
        beside({
          ports: [port(4180, 'front'), port(44180, 'metrics')],
          args: ['--upstream=http://localhost:8080/', '--cookie-name=x'],
        }),
      ],
    },
  ],
  [
    'holds certificates',
    'proxy',
    {
      containers: [
        main(),
        beside({
          ports: [port(443)],
          args: ['-tls-cert', '/c/tls.crt', '-to', 'localhost:8080'],
          volumeMounts: [mount('c', '/c')],
        }),
      ],
      volumes: [{ name: 'c', secret: { secretName: 'c' } }],
    },
  ],
  [
    'takes all that comes in and goes out',
    'proxy',
    {
      containers: [main()],
      initContainers: [
        { name: 'rules', image: 'a/r:1', args: ['--redirect'] },
        beside({
          restartPolicy: 'Always',
          args: ['sidecar', '--egress', '--ingress'],
          ports: [port(15020, 'admin')],
          env: [{ name: 'APP', value: 'localhost:8080' }],
        }),
      ],
    },
  ],
  [
    'opens a way to a base elsewhere',
    'proxy',
    { containers: [main(), beside({ args: ['--proxy', 'base.example:5432', '--local', '127.0.0.1:5432'] })] },
  ],
  [
    'prepares a directory',
    'start-up',
    { containers: [main()], initContainers: [beside({ args: ['cp', '-r', '/a', '/logs'] })] },
  ],
  [
    'waits for a base',
    'start-up',
    { containers: [main()], initContainers: [beside({ args: ['wait', 'localhost:5432', '--proxy'] })] },
  ],
  ['does work of its own', null, { containers: [main(), beside({ ports: [port(9000, 'http')] })] }],
  [
    'shares a directory that holds no lines',
    null,
    {
      containers: [
        main({ volumeMounts: [mount('work', '/work')] }),
        beside({ args: ['--render', '/work/in'], volumeMounts: [mount('work', '/work')] }),
      ],
      volumes: [shared('work')],
    },
  ],
  [
    'has metrics of its own work',
    null,
    { containers: [main(), beside({ ports: [port(9000, 'http'), port(9102, 'metrics')], args: ['--workers=4'] })] },
  ],
  [
    'reads settings',
    null,
    {
      containers: [main(), beside({ args: ['--reload'], volumeMounts: [mount('s', '/s')] })],
      volumes: [{ name: 's', configMap: { name: 's' } }],
    },
  ],
  ['keeps its own log level', null, { containers: [main(), beside({ args: ['--log-level=info', '--every=5m'] })] }],
];
function read(spec: Spec): PodObject {
  const pod = readObject('pod', { metadata: { name: 'berth-1', namespace: 'berths', uid: 'u' }, spec, status: {} });
  if (pod?.kind !== 'pod') throw new Error('no pod');
  return pod;
}
const told = (pod: PodObject) => purposeOf(pod, pod.containers.find(({ name }) => name === 'second')!, 'berth'); // every shape has one

describe('what a container beside the main one is for', () => {
  it('is told of pods of many shapes, by other signs than names of images', () => {
    const wrong = SHAPES.filter(([, truth, spec]) => (told(read(spec))?.purpose ?? null) !== truth);
    expect(SHAPES.length).toBeGreaterThanOrEqual(20);
    expect(wrong.map(([what, , spec]) => [what, told(read(spec))])).toEqual([]);
  });
  it('is the same whatever its image is called', () => {
    for (const [what, truth, spec] of SHAPES) {
      const renamed = JSON.parse(JSON.stringify(spec).replaceAll('a/second:1', 'x/metrics-log-proxy:1'));
      expect(told(read(renamed))?.purpose ?? null, what).toBe(truth);
    }
  });
  it('says why, and says nothing of the main one, which may bear the workload’s name further down', () => {
    const pod = read({ containers: [beside({ ports: [port(4317)] }), main()] });
    expect(mainOf(pod, 'berth')?.name).toBe('berth');
    expect(purposeOf(pod, pod.containers[1]!, 'berth')).toBeNull(); // the second of two
    expect(told(pod)).toEqual({
      purpose: 'collector',
      signs: ['it listens on port 4317, as receivers of telemetry do'],
    });
  });
  it('keeps nothing of arguments and values but what they say of it', () => {
    const pod = read({
      containers: [
        main(),
        beside({
          args: ['--token=never-told', '--upstream=localhost:8080'],
          env: [{ name: 'A', value: 'never-told' }],
        }),
      ],
    });
    expect(JSON.stringify(pod)).not.toContain('never-told');
    expect(told(pod)?.purpose).toBe('proxy');
  });
  it('is bounded, whatever a pod says', () => {
    const pod = read({
      containers: [
        main(),
        beside({
          args: Array.from({ length: 5000 }, (_, i) => `localhost:${i + 1} ${'x'.repeat(2000)}`),
          volumeMounts: Array.from({ length: 500 }, () => mount('v', '/v')),
        }),
      ],
      volumes: [shared('v')],
    });
    const { hints } = pod.containers[1]!; // the second of two
    expect(hints?.localPorts.length).toBeLessThanOrEqual(8);
    expect(hints?.mounts.length).toBeLessThanOrEqual(20);
  });
});
