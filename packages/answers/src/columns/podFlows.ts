/** At a window's end, by the pod's uid: bytes per second over the network, bytes in file systems. */
export interface PodFlows {
  readonly received: ReadonlyMap<string, number>;
  readonly sent: ReadonlyMap<string, number>;
  readonly files: ReadonlyMap<string, number>;
  /** Bytes on its volumes. */
  readonly volumes: ReadonlyMap<string, { readonly used: number; readonly size: number }>;
}
