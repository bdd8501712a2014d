import { TEAM_OF } from './people.ts';
import {
  type ClusterPlan,
  cpu,
  cronJob,
  DAY,
  daemonSet,
  deployment,
  Gi,
  HOUR,
  MINUTE,
  Mi,
  memory,
  nodesOf,
  REGISTRY,
  statefulSet,
  type WorkloadPlan,
} from './plan.ts';

export const LEAKING = { namespace: 'tides', name: 'tide-model', limit: 2 * Gi, base: 380 * Mi };
export const BAD_RELEASE = {
  namespace: 'manifests',
  name: 'declaration-checker',
  goodImage: `${REGISTRY}/customs/declaration-checker:2.9.0`,
  badImage: `${REGISTRY}/customs/declaration-checker:2.9.l`,
};

const WORKLOADS: readonly WorkloadPlan[] = [
  deployment('berths/berth-planner', 3, '5.2.1', cpu('400m', '1', 0.38), memory('512Mi', '1Gi', 560 * Mi)),
  deployment('berths/slot-allocator', 2, '3.0.4', cpu('250m', '500m', 0.21), memory('256Mi', '512Mi', 210 * Mi)),
  deployment('berths/quay-board', 2, '1.7.0', cpu('100m', '300m', 0.06), memory('128Mi', '256Mi', 96 * Mi)),
  deployment('berths-batch/replan-feeder', 1, '2.2.0', cpu('200m', null, 0.12), memory('256Mi', '1Gi', 190 * Mi)),
  deployment('ticketing/booking-front', 6, '7.4.2', cpu('250m', '500m', 0.21), memory('256Mi', '512Mi', 268 * Mi), {
    serves: '9102/metrics',
    helper: true,
    settings: true,
    traffic: 240_000,
  }),
  deployment('ticketing/seat-ledger', 4, '4.1.0', cpu('400m', '800m', 0.52), memory('512Mi', '1Gi', 610 * Mi), {
    serves: '9102/metrics every 10s',
    startUp: true,
  }),
  deployment('ticketing/payment-relay', 3, '2.8.3', cpu('300m', '700m', 0.34), memory('256Mi', '512Mi', 240 * Mi), {
    helper: true,
    keys: true,
  }),
  deployment('ticketing/fare-tables', 2, '1.3.3', cpu('150m', '300m', 0.11), memory('256Mi', '384Mi', 288 * Mi)),
  deployment('ticketing/receipt-mailer', 2, '4.1.7', cpu('100m', '400m', 0.05), memory('128Mi', '256Mi', 110 * Mi)),
  deployment('boarding/gate-readers', 5, '6.0.1', cpu('200m', '400m', 0.17), memory('128Mi', '256Mi', 140 * Mi)),
  deployment('boarding/kiosk-sync', 2, '1.9.2', cpu('100m', '250m', 0.08), memory('128Mi', '256Mi', 90 * Mi)),
  deployment('pilotage/vessel-tracker', 3, '3.3.0', cpu('500m', '1', 0.55), memory('1Gi', '2Gi', 1100 * Mi)),
  deployment('pilotage/pilot-roster', 2, '2.4.1', cpu('150m', '300m', 0.07), memory('256Mi', '512Mi', 180 * Mi), {
    startUp: true,
  }),
  deployment('pilotage/radio-notes', 1, '0.9.8', cpu('50m', null, 0.02), memory('64Mi', null, 48 * Mi)),
  deployment('tides/tide-model', 1, '8.1.0', cpu('1', '2', 0.9), memory('1Gi', '2Gi', LEAKING.base)),
  deployment('tides/gauge-reader', 3, '2.0.5', cpu('100m', '200m', 0.09), memory('128Mi', '192Mi', 120 * Mi), {
    serves: '8080/status as gauge-page',
  }),
  deployment('tides/chart-tiles', 2, '1.1.9', cpu('200m', '600m', 0.14), memory('512Mi', '768Mi', 490 * Mi)),
  deployment(
    'manifests/declaration-checker',
    5,
    '2.9.0',
    cpu('300m', '600m', 0.26),
    memory('384Mi', '768Mi', 400 * Mi),
    { settings: true },
  ),
  deployment('manifests/manifest-intake', 4, '5.5.0', cpu('250m', '500m', 0.24), memory('256Mi', '512Mi', 260 * Mi), {
    helper: true,
  }),
  deployment('manifests/document-store', 2, '3.1.2', cpu('400m', '1', 0.22), memory('1Gi', '2Gi', 1300 * Mi)),
  deployment('crew-rota/rota-service', 6, '4.0.0', cpu('2', '3', 0.15), memory('1Gi', '2Gi', 240 * Mi)),
  deployment('crew-rota/crew-messages', 2, '1.2.6', cpu('100m', '200m', 0.03), memory('128Mi', '256Mi', 70 * Mi)),
  deployment('yard-cranes/crane-scheduler', 2, '2.6.0', cpu('300m', '800m', 0.25), memory('512Mi', '1Gi', 420 * Mi)),
  daemonSet({
    path: 'yard-cranes/crane-telemetry',
    version: '3.4.0',
    cpuDraw: cpu('50m', '150m', 0.04),
    memoryDraw: memory('64Mi', '128Mi', 70 * Mi),
  }),
  deployment('pier-ingress/ingress', 4, '1.14.0', cpu('500m', '1500m', 0.66), memory('512Mi', '1Gi', 390 * Mi), {
    settings: true,
    keys: true,
    traffic: 900_000,
  }),
  statefulSet('pier-data/queue', 3, '3.13.1', cpu('500m', '1', 0.44), memory('2Gi', '3Gi', 1900 * Mi), {
    volume: { size: '40Gi', use: 11 * Gi },
    settings: true,
  }),
  statefulSet('pier-data/ledger-base', 2, '15.8', cpu('1', '2', 0.72), memory('4Gi', '6Gi', 4600 * Mi), {
    helper: true,
    keys: true,
    volume: { size: '100Gi', use: 57 * Gi },
  }),
  // story 5: full in about four days
  statefulSet('pier-data/archive', 1, '4.2.0', cpu('200m', '500m', 0.12), memory('512Mi', '1Gi', 430 * Mi), {
    volume: { size: '200Gi', use: 176 * Gi, perHour: 0.25 * Gi },
  }),
  deployment('pier-data/registry', 1, '2.8.3', cpu('200m', '500m', 0.06), memory('256Mi', '512Mi', 200 * Mi)),
  deployment('pier-system/name-service', 2, '1.11.1', cpu('100m', null, 0.09), memory('70Mi', '170Mi', 60 * Mi)),
  deployment('pier-system/certificate-keeper', 1, '1.15.0', cpu('20m', '100m', 0.01), memory('64Mi', '128Mi', 44 * Mi)),
  daemonSet({
    path: 'pier-system/node-collector',
    version: '0.98.0',
    cpuDraw: cpu('100m', '200m', 0.07),
    memoryDraw: memory('128Mi', '256Mi', 130 * Mi),
  }),
  // story 6: its last run failed, both tries
  cronJob({
    path: 'berths-batch/replan-night',
    version: '1.8.0',
    schedule: '0 2 * * *',
    runs: {
      every: DAY,
      takes: 18 * MINUTE,
      ends: ['succeeded', 'succeeded', 'failed'],
    },
  }),
  cronJob({
    path: 'berths-batch/tidy-slots',
    version: '1.2.2',
    schedule: '30 * * * *',
    runs: {
      every: HOUR,
      takes: 4 * MINUTE,
      ends: ['succeeded', 'succeeded', 'succeeded'],
    },
  }),
];

/** Production, public-facing. */
export const SEAWARD: ClusterPlan = {
  name: 'seaward',
  environment: 'production',
  region: 'outer harbour',
  flavour: 'own machines',
  nodes: nodesOf('seaward', 14, (i) => (i % 5 === 4 ? 'tall' : 'broad')),
  namespaces: Object.keys(TEAM_OF),
  workloads: WORKLOADS,
  quotas: [
    {
      namespace: 'ticketing',
      name: 'compute',
      hard: { 'requests.cpu': '8', 'limits.cpu': '16', 'requests.memory': '12Gi', 'limits.memory': '20Gi', pods: '40' },
    },
    { namespace: 'tides', name: 'compute', hard: { 'requests.cpu': '4', 'limits.cpu': '8', pods: '20' } },
  ],
  bounded: ['ticketing', 'manifests'],
  scalers: [
    { namespace: 'ticketing', name: 'booking-front', least: 3, most: 6, share: 70, limited: true },
    { namespace: 'manifests', name: 'manifest-intake', least: 2, most: 8, share: 75, limited: false },
  ],
  budgets: [
    { namespace: 'ticketing', name: 'seat-ledger', leastAvailable: 3 },
    { namespace: 'pier-ingress', name: 'ingress', leastAvailable: '75%' },
    { namespace: 'pier-data', name: 'queue', leastAvailable: 2 },
  ],
  stories: new Set(['leak', 'rush', 'badRelease', 'nodeTrouble']),
};
