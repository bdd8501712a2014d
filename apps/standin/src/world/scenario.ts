/** Cluster `seaward` of the Skerrivale Harbour Authority: what stands there before any story begins. */

interface Draw {
  /** Cores, or bytes; request and limit as the specification writes them. */
  readonly request: string;
  readonly limit: string | null;
  readonly use: number;
}
export interface WorkloadPlan {
  readonly namespace: string;
  readonly name: string;
  readonly kind: 'deployment' | 'daemonset';
  readonly replicas: number;
  readonly image: string;
  readonly cpu: Draw;
  readonly memory: Draw;
  /** Runs beside the main container. */
  readonly helper?: boolean;
  /** Runs before it. */
  readonly startUp?: boolean;
  readonly throttled?: number;
}

const Mi = 1024 * 1024;
const Gi = 1024 * Mi;
export const REGISTRY = 'registry.skerrivale.test';

export const NAMESPACES: Readonly<Record<string, string>> = {
  berths: 'berthing',
  'berths-batch': 'berthing',
  ticketing: 'ferries',
  boarding: 'ferries',
  pilotage: 'pilotage',
  tides: 'tides',
  manifests: 'customs',
  'crew-rota': 'crew',
  'yard-cranes': 'yard',
  'pier-system': 'platform',
  'pier-ingress': 'platform',
  'pier-data': 'platform',
};

/** The crew owns by name or by the label its namespaces bear. */
const byName = (...namespaces: string[]) => namespaces.map((namespace) => ({ by: 'name', namespace }) as const);
const byLabel = (team: string) => [{ by: 'label', key: 'team', is: team }] as const;
const team = (name: string, members: string[], owns: readonly object[]) => ({
  name,
  email: `${name.toLowerCase()}@skerrivale.test`,
  members,
  owns,
});
export const TEAMS = [
  team('Berthing', [], byName('berths', 'berths-batch')),
  team('Ferries', ['tove'], byName('ticketing', 'boarding')),
  team('Pilotage', [], byName('pilotage')),
  team('Tides', ['jonas'], byName('tides')),
  team('Customs', [], byLabel('customs')),
  team('Crew', [], byLabel('crew')),
  team('Yard', [], byLabel('yard')),
  team('Platform', ['maren', 'idris'], byLabel('platform')),
];

export const PEOPLE = [
  { name: 'maren', role: 'administrator', does: 'platform engineer, administrator' },
  { name: 'idris', role: 'member', does: 'platform, on call: operates everything' },
  { name: 'tove', role: 'member', does: 'Ferries developer: sees what Ferries owns' },
  { name: 'jonas', role: 'member', does: 'Tides developer: sees what Tides owns' },
  { name: 'lund', role: 'member', does: 'capacity lead, reads everything' },
] as const;
export const GRANTS = [
  { person: 'idris', may: 'operate' },
  { person: 'lund', may: 'read' },
] as const;

export const NODE_CLASSES = {
  broad: { cpu: '7750m', memory: String(30 * Gi), pods: 110, cores: 8, size: '32Gi' },
  tall: { cpu: '15500m', memory: String(61 * Gi), pods: 110, cores: 16, size: '64Gi' },
} as const;

export interface NodePlan {
  readonly name: string;
  readonly zone: string;
  readonly nodeClass: keyof typeof NODE_CLASSES;
}
const ZONES = ['north-mole', 'south-mole', 'basin'];
export const NODES: readonly NodePlan[] = Array.from({ length: 14 }, (_, i) => ({
  name: `seaward-${String(i + 1).padStart(2, '0')}`,
  zone: ZONES[i % 3]!,
  nodeClass: i % 5 === 4 ? 'tall' : 'broad',
}));

const cpu = (request: string, limit: string | null, use: number): Draw => ({ request, limit, use });
const memory = (request: string, limit: string | null, use: number): Draw => ({ request, limit, use });

function deployment(
  path: string,
  replicas: number,
  version: string,
  cpuDraw: Draw,
  memoryDraw: Draw,
  more: Partial<WorkloadPlan> = {},
): WorkloadPlan {
  const [namespace = '', name = ''] = path.split('/');
  const image = `${REGISTRY}/${NAMESPACES[namespace]}/${name}:${version}`;
  return { namespace, name, kind: 'deployment', replicas, image, cpu: cpuDraw, memory: memoryDraw, ...more };
}

export const LEAKING = { namespace: 'tides', name: 'tide-model', limit: 2 * Gi, base: 380 * Mi };
export const BAD_RELEASE = {
  namespace: 'manifests',
  name: 'declaration-checker',
  goodImage: `${REGISTRY}/customs/declaration-checker:2.9.0`,
  badImage: `${REGISTRY}/customs/declaration-checker:2.9.l`,
};

export const WORKLOADS: readonly WorkloadPlan[] = [
  deployment('berths/berth-planner', 3, '5.2.1', cpu('400m', '1', 0.38), memory('512Mi', '1Gi', 560 * Mi)),
  deployment('berths/slot-allocator', 2, '3.0.4', cpu('250m', '500m', 0.21), memory('256Mi', '512Mi', 210 * Mi)),
  deployment('berths/quay-board', 2, '1.7.0', cpu('100m', '300m', 0.06), memory('128Mi', '256Mi', 96 * Mi)),
  deployment('berths-batch/replan-feeder', 1, '2.2.0', cpu('200m', null, 0.12), memory('256Mi', '1Gi', 190 * Mi)),
  deployment('ticketing/booking-front', 6, '7.4.2', cpu('250m', '500m', 0.47), memory('256Mi', '512Mi', 318 * Mi), {
    helper: true,
    throttled: 0.31,
  }),
  deployment('ticketing/seat-ledger', 4, '4.1.0', cpu('400m', '800m', 0.52), memory('512Mi', '1Gi', 610 * Mi), {
    startUp: true,
  }),
  deployment('ticketing/payment-relay', 3, '2.8.3', cpu('300m', '700m', 0.34), memory('256Mi', '512Mi', 240 * Mi), {
    helper: true,
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
  deployment('tides/gauge-reader', 3, '2.0.5', cpu('100m', '200m', 0.09), memory('128Mi', '192Mi', 120 * Mi)),
  deployment('tides/chart-tiles', 2, '1.1.9', cpu('200m', '600m', 0.14), memory('512Mi', '768Mi', 490 * Mi)),
  deployment(
    'manifests/declaration-checker',
    5,
    '2.9.0',
    cpu('300m', '600m', 0.26),
    memory('384Mi', '768Mi', 400 * Mi),
  ),
  deployment('manifests/manifest-intake', 4, '5.5.0', cpu('250m', '500m', 0.24), memory('256Mi', '512Mi', 260 * Mi), {
    helper: true,
  }),
  deployment('manifests/document-store', 2, '3.1.2', cpu('400m', '1', 0.22), memory('1Gi', '2Gi', 1300 * Mi)),
  deployment('crew-rota/rota-service', 6, '4.0.0', cpu('2', '3', 0.15), memory('1Gi', '2Gi', 240 * Mi)),
  deployment('crew-rota/crew-messages', 2, '1.2.6', cpu('100m', '200m', 0.03), memory('128Mi', '256Mi', 70 * Mi)),
  deployment('yard-cranes/crane-scheduler', 2, '2.6.0', cpu('300m', '800m', 0.25), memory('512Mi', '1Gi', 420 * Mi)),
  {
    namespace: 'yard-cranes',
    name: 'crane-telemetry',
    kind: 'daemonset',
    replicas: 0,
    image: `${REGISTRY}/yard/crane-telemetry:3.4.0`,
    cpu: cpu('50m', '150m', 0.04),
    memory: memory('64Mi', '128Mi', 70 * Mi),
  },
  deployment('pier-ingress/ingress', 4, '1.14.0', cpu('500m', '1500m', 0.66), memory('512Mi', '1Gi', 390 * Mi)),
  deployment('pier-data/queue', 3, '3.13.1', cpu('500m', '1', 0.44), memory('2Gi', '3Gi', 1900 * Mi)),
  deployment('pier-data/ledger-base', 2, '15.8', cpu('1', '2', 0.72), memory('4Gi', '6Gi', 4600 * Mi), {
    helper: true,
  }),
  deployment('pier-data/registry', 1, '2.8.3', cpu('200m', '500m', 0.06), memory('256Mi', '512Mi', 200 * Mi)),
  deployment('pier-system/name-service', 2, '1.11.1', cpu('100m', null, 0.09), memory('70Mi', '170Mi', 60 * Mi)),
  deployment('pier-system/certificate-keeper', 1, '1.15.0', cpu('20m', '100m', 0.01), memory('64Mi', '128Mi', 44 * Mi)),
  {
    namespace: 'pier-system',
    name: 'node-collector',
    kind: 'daemonset',
    replicas: 0,
    image: `${REGISTRY}/platform/node-collector:0.98.0`,
    cpu: cpu('100m', '200m', 0.07),
    memory: memory('128Mi', '256Mi', 130 * Mi),
  },
];
