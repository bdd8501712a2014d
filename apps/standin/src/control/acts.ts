import type { ClusterApi } from '../api/clusterApi.ts';
import type { MailServer } from '../mail/mailServer.ts';
import { OTHER } from '../pages/dialect.ts';
import type { NodePages } from '../pages/nodePages.ts';
import type { Telling } from '../programs/programSender.ts';
import { CALL_TROUBLES } from '../world/callTroubles.ts';
import type { World } from '../world/world.ts';

/** One cluster with what serves it. */
export interface Berth {
  readonly world: World;
  readonly api: ClusterApi;
  readonly pages: NodePages;
  readonly telling: Telling;
}
type Given = (name: string) => string;
export interface Act {
  readonly path: string;
  readonly does: string;
  /** With an example each, for the page and the command line. */
  readonly parameters: readonly { readonly name: string; readonly example: string }[];
  readonly act: (berth: Berth, given: Given, mail: MailServer) => string | null;
}

const where = (namespace: string, name: string) => [
  { name: 'namespace', example: namespace },
  { name: 'name', example: name },
];
const BREAKS = ['refuse', 'hang', 'torn', 'notMetrics'] as const;

/** Everything that may be done to the stand-in world. Null: done; else why not. */
export const ACTS: readonly Act[] = [
  {
    path: '/tell',
    does: 'push what pods write, from two hours ago on, by the open telemetry protocol; without an address nobody is told any more',
    parameters: [
      { name: 'address', example: 'http://127.0.0.1:8484/api/push' },
      { name: 'token', example: '' },
    ],
    act: ({ telling }, given) => {
      if (given('address') === '') telling.end();
      else if (!URL.canParse(given('address'))) return 'this is no address';
      else telling.begin(given('address'), given('token'));
      return null;
    },
  },
  {
    path: '/load',
    does: 'drive load on a workload: so many times the usual; 1 stops it',
    parameters: [...where('ticketing', 'seat-ledger'), { name: 'factor', example: '3' }],
    act: ({ world }, given) => {
      if (!world.plan(given('namespace'), given('name'))) return `no workload ${given('namespace')}/${given('name')}`;
      return world.surges.drive({
        namespace: given('namespace'),
        name: given('name'),
        factor: Number(given('factor')),
        at: Date.now(),
      });
    },
  },
  {
    path: '/scale',
    does: 'scale a deployment',
    parameters: [...where('tides', 'gauge-reader'), { name: 'replicas', example: '5' }],
    act: ({ world }, given) =>
      world.rollouts.scale(given('namespace'), given('name'), Number(given('replicas')), Date.now()),
  },
  {
    path: '/hand-address',
    does: 'scale one deployment down by one pod, and another up by one that gets the same address',
    parameters: [
      ...where('dues', 'berth-ledger'),
      { name: 'to_namespace', example: 'dues' },
      { name: 'to_name', example: 'invoice-desk' },
    ],
    act: ({ world }, given) =>
      world.rollouts.handAddress({
        from: { namespace: given('namespace'), name: given('name') },
        to: { namespace: given('to_namespace'), name: given('to_name') },
        at: Date.now(),
      }),
  },
  {
    path: '/bad-release',
    does: 'change the settings of a deployment, then roll out an image that is not there',
    parameters: where('ticketing', 'booking-front'),
    act: ({ world }, given) => world.rollouts.badRelease(given('namespace'), given('name'), Date.now()),
  },
  {
    path: '/mend-release',
    does: 'roll a deployment back to an image that is there',
    parameters: where('manifests', 'declaration-checker'),
    act: ({ world }, given) =>
      world.rollouts.mendRelease(given('namespace') || 'manifests', given('name') || 'declaration-checker', Date.now()),
  },
  {
    path: '/leak',
    does: 'let a workload leak: from the usual to its memory limit within so many minutes, again and again',
    parameters: [...where('boarding', 'gate-readers'), { name: 'minutes', example: '10' }],
    act: ({ world }, given) =>
      world.incidents.leak({
        namespace: given('namespace'),
        name: given('name'),
        minutes: Number(given('minutes')),
        at: Date.now(),
      }),
  },
  {
    path: '/stop-leak',
    does: 'stop a leak',
    parameters: where('boarding', 'gate-readers'),
    act: ({ world }, given) => world.incidents.stopLeak(given('namespace'), given('name')),
  },
  {
    path: '/fill',
    does: 'fill the volume of a claim within so many minutes: its space, or its room for entries',
    parameters: [
      { name: 'namespace', example: 'pier-data' },
      { name: 'claim', example: 'data-queue-0' },
      { name: 'minutes', example: '20' },
      { name: 'what', example: 'space' },
    ],
    act: ({ world }, given) =>
      world.incidents.fill({
        namespace: given('namespace'),
        claim: given('claim'),
        minutes: Number(given('minutes')),
        at: Date.now(),
        what: given('what') === 'entries' ? 'entries' : 'space',
      }),
  },
  {
    path: '/restarts',
    does: 'let the containers of a workload end and start again, so many times',
    parameters: [...where('pilotage', 'vessel-tracker'), { name: 'times', example: '6' }],
    act: ({ world }, given) => world.incidents.restarts(given('namespace'), given('name'), Number(given('times'))),
  },
  {
    path: '/lose-node',
    does: 'lose a node: it stops reporting',
    parameters: [{ name: 'node', example: 'seaward-03' }],
    act: ({ world }, given) => world.incidents.loseNode(given('node'), Date.now()),
  },
  {
    path: '/find-node',
    does: 'let a lost node report again',
    parameters: [{ name: 'node', example: 'seaward-03' }],
    act: ({ world }, given) => world.incidents.findNode(given('node'), Date.now()),
  },
  {
    path: '/close-node',
    does: 'let a node take no new pods, as before its maintenance',
    parameters: [{ name: 'node', example: 'seaward-03' }],
    act: ({ world }, given) => world.incidents.closeNode(given('node'), true, Date.now()),
  },
  {
    path: '/open-node',
    does: 'let a closed node take new pods again',
    parameters: [{ name: 'node', example: 'seaward-03' }],
    act: ({ world }, given) => world.incidents.closeNode(given('node'), false, Date.now()),
  },
  {
    path: '/skew',
    does: 'set a node’s clock so many seconds ahead; 0 sets it right',
    parameters: [
      { name: 'node', example: 'seaward-05' },
      { name: 'seconds', example: '90' },
    ],
    act: ({ world }, given) => world.incidents.skew(given('node'), Number(given('seconds'))),
  },
  {
    path: '/call',
    does: `trouble between two programs that call each other: ${CALL_TROUBLES.join(', ')}; nothing mends it`,
    parameters: [
      { name: 'from', example: 'booking-front' },
      { name: 'to', example: 'seat-ledger' },
      { name: 'how', example: 'refuse' },
    ],
    act: ({ world }, given) => {
      const how = CALL_TROUBLES.find((one) => one === given('how')) ?? null;
      if (how === null && given('how') !== '') return `it is one of ${CALL_TROUBLES.join(', ')}, or nothing`;
      world.calls.set(given('from'), given('to'), how, Date.now());
      return null;
    },
  },
  {
    path: '/dialect',
    does: 'let the nodes of a cluster serve their vitals under other names, labels and units: other, or own',
    parameters: [{ name: 'speaks', example: 'other' }],
    act: ({ pages }, given) => {
      pages.dialect = given('speaks') === 'other' ? OTHER : null;
      return null;
    },
  },
  {
    path: '/break',
    does: `let a node’s page fail: ${BREAKS.join(', ')}; nothing mends it`,
    parameters: [
      { name: 'node', example: 'seaward-02' },
      { name: 'how', example: 'hang' },
    ],
    act: ({ pages }, given) => {
      const how = BREAKS.find((one) => one === given('how'));
      if (how) pages.broken.set(given('node'), how);
      else pages.broken.delete(given('node'));
      return null;
    },
  },
  {
    path: '/cut',
    does: 'break every open connection to the cluster API; where=mid-object breaks the next change in its middle',
    parameters: [{ name: 'where', example: '' }],
    act: ({ api }, given) => {
      api.cut(given('where') === 'mid-object');
      return null;
    },
  },
  {
    path: '/expire',
    does: 'forget what watchers of the cluster API could still ask for',
    parameters: [],
    act: ({ world }) => {
      world.store.expire();
      return null;
    },
  },
  {
    path: '/churn',
    does: 'random small changes, one every so many milliseconds, until the stand-in ends',
    parameters: [{ name: 'every', example: '500' }],
    act: ({ world }, given) => {
      world.incidents.churn(Number(given('every')) || 500, (...change) => world.rollouts.scale(...change));
      return null;
    },
  },
  {
    path: '/mail',
    does: 'let the mail server refuse every message, or take them again',
    parameters: [{ name: 'refusing', example: 'true' }],
    act: (_berth, given, mail) => {
      mail.refusing = given('refusing') === 'true';
      return null;
    },
  },
];
