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
  statefulSet,
} from './plan.ts';

/** Production, back office. */
export const LANDWARD: ClusterPlan = {
  name: 'landward',
  environment: 'production',
  region: 'town side',
  flavour: 'rented machines',
  nodes: nodesOf('landward', 9, (i) => (i % 3 === 2 ? 'tall' : 'broad')),
  namespaces: [
    'berths',
    'crew-rota',
    'manifests',
    'yard-cranes',
    'pilotage',
    'pier-system',
    'pier-ingress',
    'pier-data',
  ],
  workloads: [
    deployment('berths/harbour-dues', 3, '2.4.0', cpu('400m', '1', 0.31), memory('512Mi', '1Gi', 540 * Mi), {
      settings: true,
    }),
    deployment('berths/berth-ledger', 2, '4.4.2', cpu('300m', '800m', 0.28), memory('1Gi', '2Gi', 900 * Mi)),
    deployment('crew-rota/shift-ledger', 3, '1.9.4', cpu('500m', '1', 0.12), memory('512Mi', '1Gi', 300 * Mi)),
    deployment('crew-rota/badge-desk', 2, '3.0.1', cpu('100m', '300m', 0.04), memory('128Mi', '256Mi', 90 * Mi)),
    deployment('manifests/invoice-desk', 4, '6.2.0', cpu('300m', '600m', 0.25), memory('384Mi', '768Mi', 420 * Mi), {
      helper: true,
      keys: true,
    }),
    deployment('manifests/tariff-tables', 2, '2.0.9', cpu('150m', '300m', 0.09), memory('256Mi', '512Mi', 300 * Mi)),
    deployment('yard-cranes/crane-reports', 2, '1.3.0', cpu('200m', '600m', 0.14), memory('256Mi', '768Mi', 380 * Mi)),
    deployment('pilotage/licence-desk', 2, '0.8.5', cpu('100m', '300m', 0.05), memory('128Mi', '384Mi', 160 * Mi)),
    deployment('pier-ingress/ingress', 3, '1.14.0', cpu('500m', '1500m', 0.34), memory('512Mi', '1Gi', 350 * Mi)),
    statefulSet('pier-data/papers', 3, '7.17.1', cpu('1', '2', 0.66), memory('4Gi', '6Gi', 4400 * Mi), {
      volume: { size: '300Gi', use: 141 * Gi, perHour: 0.02 * Gi },
      keys: true,
    }),
    deployment('pier-system/name-service', 2, '1.11.1', cpu('100m', null, 0.06), memory('70Mi', '170Mi', 58 * Mi)),
    daemonSet({
      path: 'pier-system/node-collector',
      version: '0.98.0',
      cpuDraw: cpu('100m', '200m', 0.06),
      memoryDraw: memory('128Mi', '256Mi', 120 * Mi),
    }),
    cronJob({
      path: 'crew-rota/pay-day',
      version: '2.1.0',
      schedule: '15 3 * * *',
      runs: {
        every: DAY,
        takes: 12 * MINUTE,
        ends: ['succeeded', 'succeeded'],
      },
    }),
    cronJob({
      path: 'manifests/fetch-tariffs',
      version: '1.0.3',
      schedule: '5 * * * *',
      runs: {
        every: HOUR,
        takes: 2 * MINUTE,
        ends: ['succeeded', 'succeeded', 'succeeded'],
      },
    }),
  ],
  quotas: [
    {
      namespace: 'manifests',
      name: 'compute',
      hard: { 'requests.cpu': '4', 'limits.cpu': '8', 'requests.memory': '6Gi', 'limits.memory': '10Gi', pods: '30' },
    },
  ],
  bounded: ['crew-rota'],
  scalers: [{ namespace: 'manifests', name: 'invoice-desk', least: 2, most: 8, share: 80, limited: false }],
  budgets: [{ namespace: 'pier-data', name: 'papers', leastAvailable: 2 }],
  stories: new Set(),
  // its programs tell no spans: who talks to whom is known by what its nodes count
  wires: [
    { from: 'ingress', to: 'harbour-dues', port: 8080, bytesPerSecond: 4200 },
    { from: 'ingress', to: 'invoice-desk', port: 8080, bytesPerSecond: 2600 },
    { from: 'harbour-dues', to: 'berth-ledger', port: 5432, bytesPerSecond: 5100 },
    { from: 'berth-ledger', to: 'papers', port: 9200, bytesPerSecond: 1900 },
    { from: 'invoice-desk', to: 'tariff-tables', port: 8080, bytesPerSecond: 800 },
    { from: 'invoice-desk', to: 'papers', port: 9200, bytesPerSecond: 3300 },
    { from: 'shift-ledger', to: 'badge-desk', port: 8443, bytesPerSecond: 350 },
    { from: 'crane-reports', to: 'papers', port: 9200, bytesPerSecond: 2400 },
  ],
};
