import { type ApiObject, KINDS, type Kind } from './objects.ts';

export interface Change {
  readonly version: number;
  readonly at: number;
  readonly kind: Kind;
  readonly type: 'ADDED' | 'MODIFIED' | 'DELETED';
  readonly object: ApiObject;
  /** Only heartbeat times differ from the state before. */
  readonly heartbeat: boolean;
}

const KEPT_FOR_WATCH = 4000;
const KEPT_IN_LEDGER = 100_000;

/** The objects of one cluster with their resource versions, the changes watchers may still ask for, and the ledger of all states. */
export class ObjectStore {
  private readonly objects = new Map<Kind, Map<string, ApiObject>>(KINDS.map((kind) => [kind, new Map()]));
  /** Lists made since the last change of their kind. */
  private readonly sorted = new Map<Kind, readonly ApiObject[]>();
  private readonly listeners = new Set<(change: Change) => void>();
  private changes: Change[] = [];
  private ledger: Change[] = [];
  private oldest: number;
  version: number;

  constructor(firstVersion: number) {
    this.version = firstVersion;
    this.oldest = firstVersion;
  }

  list(kind: Kind): readonly ApiObject[] {
    let sorted = this.sorted.get(kind);
    if (!sorted) {
      sorted = [...this.table(kind).values()].sort((a, b) => (keyOf(a) < keyOf(b) ? -1 : 1));
      this.sorted.set(kind, sorted);
    }
    return sorted;
  }
  get(kind: Kind, namespace: string | undefined, name: string): ApiObject | undefined {
    return this.table(kind).get(`${namespace ?? ''}/${name}`);
  }

  put({
    kind,
    object,
    at,
    heartbeat = false,
  }: {
    readonly kind: Kind;
    readonly object: ApiObject;
    readonly at: number;
    readonly heartbeat?: boolean;
  }): void {
    const known = this.table(kind).has(keyOf(object));
    object.metadata.resourceVersion = String(++this.version);
    const copy = structuredClone(object);
    this.table(kind).set(keyOf(copy), copy);
    this.record({ version: this.version, at, kind, type: known ? 'MODIFIED' : 'ADDED', object: copy, heartbeat });
  }
  remove(kind: Kind, object: ApiObject, at: number): void {
    if (!this.table(kind).delete(keyOf(object))) return;
    const copy = structuredClone(object);
    copy.metadata.resourceVersion = String(++this.version);
    this.record({ version: this.version, at, kind, type: 'DELETED', object: copy, heartbeat: false });
  }

  /** Changes after `version`, or null when they are no longer all known. */
  since(version: number): Change[] | null {
    if (version < this.oldest || version > this.version) return null;
    return this.changes.filter((change) => change.version > version);
  }
  /** Forget what watchers could still ask for: the next one with an older version is answered 410. */
  expire(): void {
    this.changes = [];
    this.oldest = this.version;
  }
  onChange(listener: (change: Change) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Every object as it was at a moment since the stand-in started. */
  at(moment: number): Map<string, { kind: Kind; object: ApiObject }> {
    const state = new Map<string, { kind: Kind; object: ApiObject }>();
    for (const change of this.ledger) {
      if (change.at > moment) break;
      if (change.type === 'DELETED') state.delete(change.object.metadata.uid);
      else state.set(change.object.metadata.uid, { kind: change.kind, object: change.object });
    }
    return state;
  }
  /** What really changed in a stretch of time, heartbeats left out. */
  changesBetween(from: number, to: number): readonly Change[] {
    return this.ledger.filter((change) => !change.heartbeat && change.at >= from && change.at <= to);
  }

  private table(kind: Kind): Map<string, ApiObject> {
    return this.objects.get(kind)!; // every kind has a table from the start
  }
  private record(change: Change): void {
    this.sorted.delete(change.kind);
    this.changes.push(change);
    if (this.changes.length > KEPT_FOR_WATCH * 1.25) {
      this.changes = this.changes.slice(-KEPT_FOR_WATCH);
      this.oldest = this.changes[0]!.version - 1;
    }
    this.ledger.push(change);
    if (this.ledger.length > KEPT_IN_LEDGER * 1.25) this.ledger = this.ledger.slice(-KEPT_IN_LEDGER);
    for (const listener of this.listeners) listener(change);
  }
}

const keyOf = (object: ApiObject) => `${object.metadata.namespace ?? ''}/${object.metadata.name}`;
