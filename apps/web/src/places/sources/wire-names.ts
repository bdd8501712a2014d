/** What is copied from the guide into a cluster: names that its API forces on us. */
export const ACCOUNT_MANIFEST = `apiVersion: v1
kind: Namespace
metadata: { name: zetopsis }
---
apiVersion: v1
kind: ServiceAccount
metadata: { name: reader, namespace: zetopsis }
---
apiVersion: v1
kind: Secret
type: kubernetes.io/service-account-token
metadata:
  name: reader-token
  namespace: zetopsis
  annotations: { kubernetes.io/service-account.name: reader }
---
apiVersion: rbac.authorization.k8s.io/v1
kind: ClusterRole
metadata: { name: zetopsis-reader }
rules:
  - apiGroups: ["", apps, batch, autoscaling, policy, discovery.k8s.io]
    resources: ["*"]
    verbs: [get, list, watch]
  - apiGroups: [""]
    resources: [nodes/metrics, nodes/proxy, pods/log, pods/proxy, services/proxy]
    verbs: [get]
---
apiVersion: rbac.authorization.k8s.io/v1
kind: ClusterRoleBinding
metadata: { name: zetopsis-reader }
roleRef: { apiGroup: rbac.authorization.k8s.io, kind: ClusterRole, name: zetopsis-reader }
subjects:
  - { kind: ServiceAccount, name: reader, namespace: zetopsis }
`;
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
