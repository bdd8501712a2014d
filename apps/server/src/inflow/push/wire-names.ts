/**
 * The open telemetry protocol's requests in their binary form (opentelemetry-proto 1.x), as far as it is read, and
 * the part of the answer that is given. Fields that are not named here are skipped by the decoder.
 */
export const PUSH_SCHEMA = {
  nested: {
    AnyValue: {
      fields: {
        stringValue: { id: 1, type: 'string' },
        boolValue: { id: 2, type: 'bool' },
        intValue: { id: 3, type: 'int64' },
        doubleValue: { id: 4, type: 'double' },
        arrayValue: { id: 5, type: 'ArrayValue' },
        kvlistValue: { id: 6, type: 'KeyValueList' },
        bytesValue: { id: 7, type: 'bytes' },
      },
    },
    ArrayValue: { fields: { values: { id: 1, rule: 'repeated', type: 'AnyValue' } } },
    KeyValueList: { fields: { values: { id: 1, rule: 'repeated', type: 'KeyValue' } } },
    KeyValue: { fields: { key: { id: 1, type: 'string' }, value: { id: 2, type: 'AnyValue' } } },
    Resource: { fields: { attributes: { id: 1, rule: 'repeated', type: 'KeyValue' } } },
    NumberDataPoint: {
      fields: {
        startTimeUnixNano: { id: 2, type: 'fixed64' },
        timeUnixNano: { id: 3, type: 'fixed64' },
        asDouble: { id: 4, type: 'double' },
        asInt: { id: 6, type: 'sfixed64' },
        attributes: { id: 7, rule: 'repeated', type: 'KeyValue' },
        flags: { id: 8, type: 'uint32' },
      },
      oneofs: { value: { oneof: ['asDouble', 'asInt'] } },
    },
    HistogramDataPoint: {
      fields: {
        startTimeUnixNano: { id: 2, type: 'fixed64' },
        timeUnixNano: { id: 3, type: 'fixed64' },
        count: { id: 4, type: 'fixed64' },
        sum: { id: 5, type: 'double', options: { proto3_optional: true } },
        bucketCounts: { id: 6, rule: 'repeated', type: 'fixed64' },
        explicitBounds: { id: 7, rule: 'repeated', type: 'double' },
        attributes: { id: 9, rule: 'repeated', type: 'KeyValue' },
        flags: { id: 10, type: 'uint32' },
      },
    },
    Buckets: {
      fields: {
        offset: { id: 1, type: 'sint32' },
        bucketCounts: { id: 2, rule: 'repeated', type: 'uint64' },
      },
    },
    ExponentialHistogramDataPoint: {
      fields: {
        attributes: { id: 1, rule: 'repeated', type: 'KeyValue' },
        startTimeUnixNano: { id: 2, type: 'fixed64' },
        timeUnixNano: { id: 3, type: 'fixed64' },
        count: { id: 4, type: 'fixed64' },
        sum: { id: 5, type: 'double', options: { proto3_optional: true } },
        scale: { id: 6, type: 'sint32' },
        zeroCount: { id: 7, type: 'fixed64' },
        positive: { id: 8, type: 'Buckets' },
        negative: { id: 9, type: 'Buckets' },
        flags: { id: 10, type: 'uint32' },
        zeroThreshold: { id: 14, type: 'double' },
      },
    },
    ValueAtQuantile: { fields: { quantile: { id: 1, type: 'double' }, value: { id: 2, type: 'double' } } },
    SummaryDataPoint: {
      fields: {
        startTimeUnixNano: { id: 2, type: 'fixed64' },
        timeUnixNano: { id: 3, type: 'fixed64' },
        count: { id: 4, type: 'fixed64' },
        sum: { id: 5, type: 'double' },
        quantileValues: { id: 6, rule: 'repeated', type: 'ValueAtQuantile' },
        attributes: { id: 7, rule: 'repeated', type: 'KeyValue' },
        flags: { id: 8, type: 'uint32' },
      },
    },
    Gauge: { fields: { dataPoints: { id: 1, rule: 'repeated', type: 'NumberDataPoint' } } },
    Sum: {
      fields: {
        dataPoints: { id: 1, rule: 'repeated', type: 'NumberDataPoint' },
        aggregationTemporality: { id: 2, type: 'int32' },
        isMonotonic: { id: 3, type: 'bool' },
      },
    },
    Histogram: {
      fields: {
        dataPoints: { id: 1, rule: 'repeated', type: 'HistogramDataPoint' },
        aggregationTemporality: { id: 2, type: 'int32' },
      },
    },
    ExponentialHistogram: {
      fields: {
        dataPoints: { id: 1, rule: 'repeated', type: 'ExponentialHistogramDataPoint' },
        aggregationTemporality: { id: 2, type: 'int32' },
      },
    },
    Summary: { fields: { dataPoints: { id: 1, rule: 'repeated', type: 'SummaryDataPoint' } } },
    Metric: {
      fields: {
        name: { id: 1, type: 'string' },
        description: { id: 2, type: 'string' },
        unit: { id: 3, type: 'string' },
        gauge: { id: 5, type: 'Gauge' },
        sum: { id: 7, type: 'Sum' },
        histogram: { id: 9, type: 'Histogram' },
        exponentialHistogram: { id: 10, type: 'ExponentialHistogram' },
        summary: { id: 11, type: 'Summary' },
      },
    },
    ScopeMetrics: { fields: { metrics: { id: 2, rule: 'repeated', type: 'Metric' } } },
    ResourceMetrics: {
      fields: {
        resource: { id: 1, type: 'Resource' },
        scopeMetrics: { id: 2, rule: 'repeated', type: 'ScopeMetrics' },
      },
    },
    MetricsRequest: { fields: { resourceMetrics: { id: 1, rule: 'repeated', type: 'ResourceMetrics' } } },
    LogRecord: {
      fields: {
        timeUnixNano: { id: 1, type: 'fixed64' },
        severityNumber: { id: 2, type: 'int32' },
        severityText: { id: 3, type: 'string' },
        body: { id: 5, type: 'AnyValue' },
        attributes: { id: 6, rule: 'repeated', type: 'KeyValue' },
        traceId: { id: 9, type: 'bytes' },
        spanId: { id: 10, type: 'bytes' },
        observedTimeUnixNano: { id: 11, type: 'fixed64' },
      },
    },
    ScopeLogs: { fields: { logRecords: { id: 2, rule: 'repeated', type: 'LogRecord' } } },
    ResourceLogs: {
      fields: {
        resource: { id: 1, type: 'Resource' },
        scopeLogs: { id: 2, rule: 'repeated', type: 'ScopeLogs' },
      },
    },
    SpanEvent: {
      fields: {
        timeUnixNano: { id: 1, type: 'fixed64' },
        name: { id: 2, type: 'string' },
        attributes: { id: 3, rule: 'repeated', type: 'KeyValue' },
      },
    },
    SpanLink: { fields: { traceId: { id: 1, type: 'bytes' } } },
    SpanStatus: { fields: { message: { id: 2, type: 'string' }, code: { id: 3, type: 'int32' } } },
    Span: {
      fields: {
        traceId: { id: 1, type: 'bytes' },
        spanId: { id: 2, type: 'bytes' },
        traceState: { id: 3, type: 'string' },
        parentSpanId: { id: 4, type: 'bytes' },
        name: { id: 5, type: 'string' },
        kind: { id: 6, type: 'int32' },
        startTimeUnixNano: { id: 7, type: 'fixed64' },
        endTimeUnixNano: { id: 8, type: 'fixed64' },
        attributes: { id: 9, rule: 'repeated', type: 'KeyValue' },
        events: { id: 11, rule: 'repeated', type: 'SpanEvent' },
        links: { id: 13, rule: 'repeated', type: 'SpanLink' },
        status: { id: 15, type: 'SpanStatus' },
      },
    },
    ScopeSpans: { fields: { spans: { id: 2, rule: 'repeated', type: 'Span' } } },
    ResourceSpans: {
      fields: {
        resource: { id: 1, type: 'Resource' },
        scopeSpans: { id: 2, rule: 'repeated', type: 'ScopeSpans' },
      },
    },
    TracesRequest: { fields: { resourceSpans: { id: 1, rule: 'repeated', type: 'ResourceSpans' } } },
    LogsRequest: { fields: { resourceLogs: { id: 1, rule: 'repeated', type: 'ResourceLogs' } } },
    PartialSuccess: {
      fields: { rejected: { id: 1, type: 'int64' }, errorMessage: { id: 2, type: 'string' } },
    },
    RetryDelay: { fields: { seconds: { id: 1, type: 'int64' } } },
    RetryInfo: { fields: { retryDelay: { id: 1, type: 'RetryDelay' } } },
    Detail: { fields: { typeUrl: { id: 1, type: 'string' }, value: { id: 2, type: 'bytes' } } },
    Status: {
      fields: {
        code: { id: 1, type: 'int32' },
        message: { id: 2, type: 'string' },
        details: { id: 3, rule: 'repeated', type: 'Detail' },
      },
    },
    /** The same for all kinds, but for a name that the binary form does not have. */
    Answer: { fields: { partialSuccess: { id: 1, type: 'PartialSuccess' } } },
  },
} as const;
/** Messages that are decoded at once; those above them hold as many as a sender likes. */
export const LEAF_MESSAGES = [
  'Resource',
  'NumberDataPoint',
  'HistogramDataPoint',
  'ExponentialHistogramDataPoint',
  'SummaryDataPoint',
  'LogRecord',
  'Span',
] as const;
/** Where a refusal over gRPC says when to come again, and as what. */
export const GRPC_DETAILS = 'grpc-status-details-bin';
export const RETRY_TYPE = 'type.googleapis.com/google.rpc.RetryInfo';
/** What is pushed: the path below the address that clients are given, its method over gRPC, the message, and what the JSON answer calls that which was not taken. */
export const SIGNALS = {
  metrics: {
    path: 'v1/metrics',
    grpc: '/opentelemetry.proto.collector.metrics.v1.MetricsService/Export',
    request: 'MetricsRequest',
    rejected: 'rejectedDataPoints',
  },
  logs: {
    path: 'v1/logs',
    grpc: '/opentelemetry.proto.collector.logs.v1.LogsService/Export',
    request: 'LogsRequest',
    rejected: 'rejectedLogRecords',
  },
  traces: {
    path: 'v1/traces',
    grpc: '/opentelemetry.proto.collector.trace.v1.TraceService/Export',
    request: 'TracesRequest',
    rejected: 'rejectedSpans',
  },
} as const;
export type Signal = keyof typeof SIGNALS;
export const BINARY_TYPE = 'application/x-protobuf';
/** Labels of series that are counted from spans: what attributes of resources become in OpenMetrics. */
export const IDENTITY_LABELS = {
  namespace: 'k8s_namespace_name',
  pod: 'k8s_pod_name',
  container: 'k8s_container_name',
  service: 'service_name',
  host: 'host_name',
} as const;
