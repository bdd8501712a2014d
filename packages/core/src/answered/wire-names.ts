/** How the open telemetry semantic conventions name the time that a program's answers took, written the OpenMetrics way. */
export const ANSWER_DURATIONS: readonly string[] = [
  'http_server_request_duration_seconds',
  'rpc_server_call_duration_seconds',
  'rpc_server_duration_milliseconds',
  // what Zetopsis counts from spans: where a program tells nothing by itself
  'span_duration_seconds',
];
/** Bears a value only on what failed. */
export const ERROR_LABEL = 'error_type';
export const BOUND_LABEL = 'le';
export const PARTS = { bucket: '_bucket', count: '_count', total: '_total' } as const;
/** Codes of remote procedure calls that are the fault of who answers. */
export const SERVER_ERRORS: ReadonlySet<string> = new Set([
  '2',
  '4',
  '12',
  '13',
  '14',
  '15',
  'UNKNOWN',
  'DEADLINE_EXCEEDED',
  'UNIMPLEMENTED',
  'INTERNAL',
  'UNAVAILABLE',
  'DATA_LOSS',
]);
export const RPC_CODE_LABELS: ReadonlySet<string> = new Set(['rpc_grpc_status_code', 'rpc_response_status_code']);
