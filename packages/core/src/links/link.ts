/** One end of a link: a workload, or what is outside. "" where there is no cluster or namespace. */
export interface LinkEnd {
  readonly cluster: string;
  readonly namespace: string;
  /** "deployment:booking-front", "service:quay", "host:pier-2"; "outside" is whoever is not known. */
  readonly workload: string;
}
export const OUTSIDE: LinkEnd = { cluster: '', namespace: '', workload: 'outside' };
/** A port as somebody told it; empty where it is none. */
export const readPort = (text: string): string => (/^\d{1,5}$/.test(text) ? text : '');
export const isOutside = ({ cluster, workload }: LinkEnd): boolean => cluster === '' && workload === OUTSIDE.workload;
export const endKey = ({ cluster, namespace, workload }: LinkEnd): string => `${cluster}/${namespace}/${workload}`;

export function readEndKey(key: string): LinkEnd {
  const [cluster = '', namespace = '', ...workload] = key.split('/');
  return { cluster, namespace, workload: workload.join('/') };
}

/** What one workload sends to another. */
export interface Link {
  readonly from: LinkEnd;
  readonly to: LinkEnd;
  /** The name by which it was called; empty: none was told. */
  readonly toService: string;
  readonly protocol: string;
  readonly port: string;
}
export const SEEN_BY = ['caller', 'answerer'] as const;
export type SeenBy = (typeof SEEN_BY)[number];
/** Of the ends alone: what is drawn is one line, whatever goes over it. */
export const pairKey = ({ from, to }: Pick<Link, 'from' | 'to'>): string => `${endKey(from)} → ${endKey(to)}`;

/** One request, as one side saw it. */
export interface LinkRequest {
  readonly link: Link;
  readonly seenBy: SeenBy;
  /** Of whose span it is told; an answerer's counts where its caller's is not there. */
  readonly spanId: string;
  /** The minute in which it ended by the caller's clock: its beginning, ms. */
  readonly minute: number;
  readonly failed: boolean;
  readonly refused: boolean;
  readonly seconds: number;
  /** Of an answerer: its time less what it waited for others. Null of a caller. */
  readonly own: number | null;
  /** Of an answerer: what it called meanwhile. */
  readonly calls: number;
  /** For how many it stands: messages of a batch, and what its sender did not send. */
  readonly messages: number;
  /** Of those, what was seen. */
  readonly seen: number;
}
