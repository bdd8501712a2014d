/** How what a connection needs is taken from a cluster. */
export const TAKE_TOKEN = `kubectl apply -f reader.yaml
kubectl -n zetopsis get secret reader-token -o jsonpath='{.data.token}' | base64 -d
kubectl -n zetopsis get secret reader-token -o jsonpath='{.data.ca\\.crt}' | base64 -d
kubectl config view --minify -o jsonpath='{.clusters[0].cluster.server}'
`;

/** What a program with the open telemetry SDK is set up with: metrics, spans and log lines. */
export const senderSettings = (address: string, token: string): string => `OTEL_EXPORTER_OTLP_ENDPOINT=${address}
OTEL_EXPORTER_OTLP_PROTOCOL=http/protobuf
OTEL_EXPORTER_OTLP_HEADERS=Authorization=Bearer%20${token}
OTEL_METRICS_EXPORTER=otlp
OTEL_TRACES_EXPORTER=otlp
OTEL_LOGS_EXPORTER=otlp
OTEL_METRIC_EXPORT_INTERVAL=60000`;
/** The token in a secret of the cluster, and how a container is given it together with who it is. */
export const clusterRecipe = (address: string, token: string): string => `apiVersion: v1
kind: Secret
metadata:
  name: zetopsis-push
stringData:
  headers: Authorization=Bearer%20${token}
---
# in the pod's template, for each container that sends
env:
  - name: OTEL_EXPORTER_OTLP_ENDPOINT
    value: ${address}
  - name: OTEL_EXPORTER_OTLP_PROTOCOL
    value: http/protobuf
  - name: OTEL_EXPORTER_OTLP_HEADERS
    valueFrom: { secretKeyRef: { name: zetopsis-push, key: headers } }
  - name: POD_NAME
    valueFrom: { fieldRef: { fieldPath: metadata.name } }
  - name: POD_UID
    valueFrom: { fieldRef: { fieldPath: metadata.uid } }
  - name: NAMESPACE
    valueFrom: { fieldRef: { fieldPath: metadata.namespace } }
  - name: OTEL_RESOURCE_ATTRIBUTES
    value: k8s.pod.uid=$(POD_UID),k8s.pod.name=$(POD_NAME),k8s.namespace.name=$(NAMESPACE)
`;
export const pageCommand = (
  address: string,
  token: string,
): string => `printf 'copied_files 12\\n' | curl --data-binary @- \\
  -H 'Content-Type: text/plain' -H 'Authorization: Bearer ${token}' \\
  ${address}/page/night-copy`;
