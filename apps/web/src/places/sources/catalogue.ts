/** What people have, and how it comes to be read: the ways are few, the things are many. */
export type Way = 'cluster' | 'host' | 'program' | 'own' | 'push';
export interface Kind {
  readonly name: string;
  /** Other words that people look for it by. */
  readonly also: string;
  readonly way: Way;
  /** How it comes to have figures to read. */
  readonly how: string;
}

const EXPORTER = 'Run the exporter that its community keeps beside it';
const CATALOGUE: readonly Kind[] = [
  {
    name: 'cluster',
    also: 'orchestrator nodes pods',
    way: 'cluster',
    how: 'Connect it; its nodes’ pages are read by themselves.',
  },
  {
    name: 'machine with Linux',
    also: 'host server virtual bare metal',
    way: 'host',
    how: 'Run a machine exporter on it, or a telemetry collector that pushes system.* metrics.',
  },
  {
    name: 'machine with Windows',
    also: 'host server',
    way: 'host',
    how: 'Run a machine exporter for it as a service.',
  },
  {
    name: 'machine that cannot be reached',
    also: 'behind firewall edge laptop',
    way: 'push',
    how: 'Run a telemetry collector on it that pushes system.* metrics.',
  },
  {
    name: 'program in Go',
    also: 'golang service',
    way: 'program',
    how: 'Serve the metrics of its client library under /metrics; the library brings those of its runtime.',
  },
  {
    name: 'program on the Java machine',
    also: 'jvm kotlin scala java',
    way: 'program',
    how: 'Add its metrics library’s page, or start it with the open telemetry agent and push.',
  },
  {
    name: 'program in Python',
    also: 'wsgi worker',
    way: 'program',
    how: 'Serve the client library’s page; with several worker processes use its shared directory, so that one page has them all.',
  },
  {
    name: 'program in Node.js',
    also: 'javascript typescript',
    way: 'program',
    how: 'Serve the client library’s page from the program itself, at a port of its own.',
  },
  {
    name: 'program in .NET',
    also: 'c# dotnet',
    way: 'push',
    how: 'Add the open telemetry packages; they bring the runtime’s and the web server’s metrics.',
  },
  {
    name: 'program in Rust',
    also: '',
    way: 'program',
    how: 'Serve the client library’s page, or push with the open telemetry crate.',
  },
  {
    name: 'program in C or C++',
    also: 'cpp',
    way: 'program',
    how: 'Serve the client library’s page from a thread of its own.',
  },
  {
    name: 'program in PHP',
    also: 'fpm',
    way: 'own',
    how: 'It keeps nothing between requests: run an exporter beside its process manager.',
  },
  {
    name: 'program in Ruby',
    also: 'rails',
    way: 'program',
    how: 'Serve the client library’s page; with several processes use its shared store.',
  },
  {
    name: 'program that is instrumented with open telemetry',
    also: 'otlp sdk agent collector',
    way: 'push',
    how: 'Give it the address and token of a push key.',
  },
  {
    name: 'relational database',
    also: 'sql postgres',
    way: 'program',
    how: `${EXPORTER}, with an account that may read its statistics only.`,
  },
  { name: 'document or key-value store', also: 'cache nosql', way: 'program', how: `${EXPORTER}.` },
  {
    name: 'message broker',
    also: 'queue stream topic amqp',
    way: 'program',
    how: 'Switch its own metrics page on where it has one; else run its exporter beside it.',
  },
  { name: 'search index', also: 'full text', way: 'program', how: `${EXPORTER}.` },
  {
    name: 'web server or reverse proxy',
    also: 'http load balancer ingress gateway',
    way: 'program',
    how: 'Switch its metrics page on; a page of its state for people needs an exporter beside it.',
  },
  {
    name: 'object store',
    also: 'bucket blob',
    way: 'program',
    how: 'Its metrics page often asks for a token: give it at the endpoint.',
  },
  {
    name: 'name server',
    also: 'dns resolver',
    way: 'program',
    how: 'Its metrics page has a port of its own; in a cluster a scout finds it.',
  },
  {
    name: 'switch, router or power supply',
    also: 'snmp network ups sensor',
    way: 'host',
    how: 'Run an exporter that asks it by SNMP, and add the page with the device as parameter; name the machine after the device.',
  },
  {
    name: 'address that must answer',
    also: 'probe ping certificate expiry uptime',
    way: 'own',
    how: 'Run a probing exporter that tells how it answered, and add its page with the address as parameter.',
  },
  {
    name: 'nightly job or script',
    also: 'cron batch backup',
    way: 'push',
    how: 'Let it push one page of text when it ends: the guide has the command.',
  },
  {
    name: 'page that is no metrics page',
    also: 'json csv html status translator',
    way: 'own',
    how: 'Put a small exporter beside it that serves its figures as a metrics page.',
  },
];

/** Those that every word of what is looked for is part of. */
export const kindsLike = (find: string): readonly Kind[] => {
  const words = find.toLowerCase().split(/\s+/);
  return CATALOGUE.filter(({ name, also, how }) =>
    words.every((word) => `${name} ${also} ${how}`.toLowerCase().includes(word)),
  );
};

/** What differs from one flavour of cluster to another. */
export const FLAVOURS = {
  'run by yourselves':
    'The API’s address and authority are in the file that its tool wrote at installation. Nodes’ own pages answer on the port that each node says; let Zetopsis reach it.',
  'managed by a provider':
    'The API’s address is in the provider’s console; its authority is in the account’s secret. Nodes often lie in a private network: run Zetopsis inside it, or read pages through the cluster’s API.',
  'a distribution with its own login':
    'Apply the manifest as its administrator; projects are namespaces. If accounts get no lasting secret by themselves, the Secret in the manifest makes one.',
  'small, on one or few machines':
    'The address in its own file is often 127.0.0.1: use the machine’s name instead. It may serve fewer kinds; what it does not serve is said, and the rest is whole.',
} as const;
export type Flavour = keyof typeof FLAVOURS;
