import { type ClusterPlan, cpu, daemonSet, deployment, Mi, memory, nodesOf } from './plan.ts';

/** Rehearsals and test builds; deliberately tight. */
export const SLIPWAY: ClusterPlan = {
  name: 'slipway',
  environment: 'rehearsal',
  region: 'town side',
  flavour: 'rented machines',
  nodes: nodesOf('slipway', 5, () => 'small'),
  namespaces: ['boarding', 'ticketing', 'tides', 'manifests', 'pier-system'],
  workloads: [
    // story 8: 6 × 500m and 2 × 420m spend 96 % of 4 cores; the scanner's pods no longer fit in
    deployment('boarding/gate-rehearsal', 6, '6.1.0', cpu('500m', '600m', 0.31), memory('256Mi', '512Mi', 210 * Mi)),
    deployment('boarding/kiosk-sync', 2, '2.0.0', cpu('420m', '600m', 0.22), memory('256Mi', '512Mi', 180 * Mi)),
    deployment('boarding/ticket-scanner', 2, '0.3.1', cpu('300m', '500m', 0.1), memory('128Mi', '256Mi', 90 * Mi)),
    deployment('ticketing/booking-front', 2, '7.5.0', cpu('250m', '500m', 0.09), memory('256Mi', '512Mi', 240 * Mi), {
      settings: true,
    }),
    deployment('ticketing/seat-ledger', 1, '4.2.0', cpu('400m', '800m', 0.1), memory('512Mi', '1Gi', 500 * Mi)),
    deployment('tides/tide-lab', 1, '9.0.0', cpu('1', '2', 1.1), memory('2Gi', '4Gi', 2600 * Mi)),
    deployment(
      'manifests/declaration-trial',
      2,
      '3.0.0',
      cpu('300m', '600m', 0.12),
      memory('384Mi', '768Mi', 330 * Mi),
    ),
    deployment('pier-system/name-service', 1, '1.11.1', cpu('100m', null, 0.03), memory('70Mi', '170Mi', 52 * Mi)),
    daemonSet({
      path: 'pier-system/node-collector',
      version: '0.99.0',
      cpuDraw: cpu('100m', '200m', 0.05),
      memoryDraw: memory('128Mi', '256Mi', 115 * Mi),
    }),
  ],
  quotas: [
    {
      namespace: 'boarding',
      name: 'compute',
      hard: { 'requests.cpu': '4', 'limits.cpu': '6', 'requests.memory': '6Gi', pods: '20' },
    },
    { namespace: 'ticketing', name: 'compute', hard: { 'requests.cpu': '3', pods: '12' } },
  ],
  bounded: ['boarding', 'ticketing', 'tides', 'manifests'],
  scalers: [],
  budgets: [],
  stories: new Set(['quota']),
};
