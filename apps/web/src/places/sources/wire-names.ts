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

/** Programs that are not changed at all, by language: how each is started so that the standard's own tools look into it. */
export const UNCHANGED: readonly (readonly [language: string, text: string])[] = [
  [
    'JavaScript',
    `npm install @opentelemetry/api @opentelemetry/auto-instrumentations-node
NODE_OPTIONS="--require @opentelemetry/auto-instrumentations-node/register" node main.js`,
  ],
  [
    'Python',
    `pip install opentelemetry-distro opentelemetry-exporter-otlp
opentelemetry-bootstrap -a install
opentelemetry-instrument python main.py`,
  ],
  ['Java', `JAVA_TOOL_OPTIONS="-javaagent:/opt/opentelemetry-javaagent.jar" java -jar main.jar`],
  [
    '.NET',
    `CORECLR_ENABLE_PROFILING=1 CORECLR_PROFILER={918728DD-259F-4A6A-AC2B-B85E1B658318} \\
CORECLR_PROFILER_PATH=/opt/otel/linux-x64/OpenTelemetry.AutoInstrumentation.Native.so \\
DOTNET_ADDITIONAL_DEPS=/opt/otel/AdditionalDeps DOTNET_SHARED_STORE=/opt/otel/store \\
DOTNET_STARTUP_HOOKS=/opt/otel/net/OpenTelemetry.AutoInstrumentation.StartupHook.dll OTEL_DOTNET_AUTO_HOME=/opt/otel \\
dotnet main.dll`,
  ],
];
/** A sender on each node, that reads what containers write there; the sender itself is whichever speaks the protocol. */
export const nodeRecipe = (address: string): string => `apiVersion: apps/v1
kind: DaemonSet
metadata: { name: line-sender, namespace: zetopsis }
spec:
  selector: { matchLabels: { app: line-sender } }
  template:
    metadata: { labels: { app: line-sender } }
    spec:
      containers:
        - name: line-sender
          image: YOUR-SENDER
          env:
            - { name: NODE_NAME, valueFrom: { fieldRef: { fieldPath: spec.nodeName } } }
            - { name: OTEL_EXPORTER_OTLP_ENDPOINT, value: '${address}' }
            - { name: OTEL_EXPORTER_OTLP_HEADERS, valueFrom: { secretKeyRef: { name: zetopsis-push, key: headers } } }
            # it must say of each line k8s.pod.uid, or k8s.pod.name and k8s.namespace.name: both stand in the path of the file
            - { name: OTEL_RESOURCE_ATTRIBUTES, value: k8s.node.name=$(NODE_NAME) }
          volumeMounts: [{ name: written, mountPath: /var/log/pods, readOnly: true }]
      tolerations: [{ operator: Exists }]
      volumes: [{ name: written, hostPath: { path: /var/log/pods } }]
`;
/** One receiver in the cluster, so that the pods themselves hold no token. */
export const relayRecipe = (address: string): string => `apiVersion: apps/v1
kind: Deployment
metadata: { name: relay, namespace: zetopsis }
spec:
  replicas: 2
  selector: { matchLabels: { app: relay } }
  template:
    metadata: { labels: { app: relay } }
    spec:
      containers:
        - name: relay
          image: YOUR-RECEIVER
          ports: [{ name: otlp, containerPort: 4318 }]
          env:
            - { name: OTEL_EXPORTER_OTLP_ENDPOINT, value: '${address}' }
            - { name: OTEL_EXPORTER_OTLP_HEADERS, valueFrom: { secretKeyRef: { name: zetopsis-push, key: headers } } }
---
apiVersion: v1
kind: Service
metadata: { name: relay, namespace: zetopsis }
spec: { selector: { app: relay }, ports: [{ name: otlp, port: 4318 }] }
---
# programs in the cluster then send to it, and need no token
#   OTEL_EXPORTER_OTLP_ENDPOINT=http://relay.zetopsis:4318
`;
