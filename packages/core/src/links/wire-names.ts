/** Attributes of spans that say whom they are about, by the semantic conventions. */
export const CALL = {
  peer: 'peer.service',
  address: 'server.address',
  port: 'server.port',
  caller: 'client.address',
  http: 'http.request.method',
  rpc: 'rpc.system',
  base: 'db.system.name',
  baseOld: 'db.system',
  queue: 'messaging.system',
  queueName: 'messaging.destination.name',
  messages: 'messaging.batch.message_count',
  error: 'error.type',
} as const;
/** Labels of the series that a link is. */
export const LINK_LABELS = [
  'from_cluster',
  'from_namespace',
  'from_workload',
  'to_cluster',
  'to_namespace',
  'to_workload',
  'to_service',
  'protocol',
  'port',
  'seen_by',
] as const;
export const LINK_METRICS = {
  requests: 'link_requests',
  seen: 'link_requests_seen',
  failures: 'link_failures',
  refused: 'link_refused',
  duration: 'link_duration_seconds',
  nearlyAll: 'link_p95_seconds',
  own: 'link_own_seconds',
  calls: 'link_calls',
  bytes: 'link_bytes',
  uncertain: 'link_bytes_uncertain',
  connections: 'link_connections',
} as const;
/** What machines count by address, as their pages may call it. */
export const COUNTED = {
  bytes: 'connection_bytes_total',
  connections: 'connections_open',
  from: 'source_address',
  to: 'destination_address',
  port: 'destination_port',
  direction: 'network_io_direction',
  back: /^(receive|received|in)$/,
} as const;
