/** How what a connection needs is taken from a cluster. */
export const TAKE_TOKEN = `kubectl apply -f reader.yaml
kubectl -n zetopsis get secret reader-token -o jsonpath='{.data.token}' | base64 -d
kubectl -n zetopsis get secret reader-token -o jsonpath='{.data.ca\\.crt}' | base64 -d
kubectl config view --minify -o jsonpath='{.clusters[0].cluster.server}'
`;

/** What a program with the open telemetry SDK is set up with. */
export const senderSettings = (
  address: string,
  token: string,
): string => `OTEL_EXPORTER_OTLP_METRICS_ENDPOINT=${address}/v1/metrics
OTEL_EXPORTER_OTLP_METRICS_PROTOCOL=http/protobuf
OTEL_EXPORTER_OTLP_METRICS_HEADERS=Authorization=Bearer%20${token}
OTEL_METRIC_EXPORT_INTERVAL=60000`;
export const pageCommand = (
  address: string,
  token: string,
): string => `printf 'copied_files 12\\n' | curl --data-binary @- \\
  -H 'Content-Type: text/plain' -H 'Authorization: Bearer ${token}' \\
  ${address}/page/night-copy`;
