/** Where a receiver of the open telemetry protocol takes each kind, behind its address. */
export const PATHS = { metrics: 'v1/metrics', logs: 'v1/logs', traces: 'v1/traces' } as const;
