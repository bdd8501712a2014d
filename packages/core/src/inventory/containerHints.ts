import * as wire from './wireReader.ts';

type Wire = wire.Wire;

/** What a volume is made of, as far as it says what a container is for. */
export type MountFrom = 'shared' | 'host' | 'config' | 'secret' | 'claim' | 'other';
/**
 * What arguments, environment and mounts of a container say of its purpose. Only this is kept of them: the texts themselves may hold
 * secrets.
 */
export interface ContainerHints {
  /** Ports on the pod's own loopback that it is told of. */
  readonly localPorts: readonly number[];
  readonly says: readonly HintWord[];
  readonly mounts: readonly { readonly volume: string; readonly from: MountFrom; readonly logs: boolean }[];
}

/** By what an argument, or the name of a variable, says. */
const WORDS = {
  'log files': /\/logs?\b|\.log\b|\btail\b|journal/i,
  'hands on': /\b(?:upstream|proxy|backend|reverse|forward-?to|intercept|egress|ingress)\b/i,
  'reads another': /\b(?:scrape|exporter|data[-_]?source|dsn|target|stats?[-_]?(?:url|uri|page))/i,
  telemetry: /\b(?:otlp|opentelemetry|telemetry|traces?|spans?|pipelines?)\b/i,
  certificate: /\b(?:tls|cert|certificate|mtls)\b/i,
} as const;
export type HintWord = keyof typeof WORDS;
const HINT_WORDS = Object.keys(WORDS) as HintWord[]; // its own keys
const LOCAL = /(?:localhost|127\.0\.0\.1|\[::1\]):(\d{1,5})/g;
const LOG_PATH = /\/logs?(?:\/|$)/i;
const MOST = { texts: 60, length: 400, ports: 8, mounts: 20 } as const;

const textsOf = (spec: Wire, field: string): string[] => {
  const value = spec[field];
  return Array.isArray(value)
    ? value.slice(0, MOST.texts).flatMap((one) => (typeof one === 'string' ? [one.slice(0, MOST.length)] : []))
    : [];
};
function fromOf(volume: Wire): MountFrom {
  if (wire.has(volume, 'emptyDir')) return 'shared';
  if (wire.has(volume, 'hostPath')) return 'host';
  if (wire.has(volume, 'configMap')) return 'config';
  if (wire.has(volume, 'secret')) return 'secret';
  return wire.has(volume, 'persistentVolumeClaim') ? 'claim' : 'other';
}

/** Undefined where nothing says anything: most containers have none. */
export function hintsOf(spec: Wire, volumes: readonly Wire[]): ContainerHints | undefined {
  const args = [...textsOf(spec, 'command'), ...textsOf(spec, 'args')];
  const env = wire.list(spec, 'env').slice(0, MOST.texts);
  const values = env.map((one) => wire.text(one, 'value').slice(0, MOST.length));
  // of variables only the names are looked at for words: their values are not ours to read
  const texts = [...args, ...env.map((one) => wire.text(one, 'name').slice(0, MOST.length))];
  const local = [...args, ...values].flatMap((text) => [...text.matchAll(LOCAL)].map(([, port]) => Number(port)));
  const of = new Map(volumes.map((volume) => [wire.text(volume, 'name'), volume]));
  const mounts = wire
    .list(spec, 'volumeMounts')
    .slice(0, MOST.mounts)
    .flatMap((mount) => {
      const volume = of.get(wire.text(mount, 'name'));
      if (!volume) return [];
      const paths = [wire.text(mount, 'mountPath'), wire.text(wire.child(volume, 'hostPath'), 'path')];
      const from = fromOf(volume);
      return [{ volume: wire.text(volume, 'name'), from, logs: paths.some((path) => LOG_PATH.test(path)) }];
    });
  const hints: ContainerHints = {
    localPorts: [...new Set(local)].filter((port) => port > 0 && port < 65_536).slice(0, MOST.ports),
    says: HINT_WORDS.filter((word) => texts.some((text) => WORDS[word].test(text))),
    mounts,
  };
  return hints.localPorts.length + hints.says.length + hints.mounts.length === 0 ? undefined : hints;
}
