import { EventLog } from './eventLog.ts';
import { INVENTORY_KINDS } from './kinds.ts';
import { changeWords } from './objectChanges.ts';
import type { InventoryKind, InventoryObject, PodObject } from './objects.ts';
import { type WorkloadRef, workloadKey, workloadOf } from './ownerChain.ts';
import { type ObjectVersion, sameState } from './versions.ts';

/** A version of an object that began, or ended: what is to be kept. */
export type VersionWrite =
  | {
      readonly write: 'open';
      readonly connectionId: string;
      readonly object: InventoryObject;
      readonly from: number;
      readonly fromEarliest: number;
    }
  | {
      readonly write: 'close';
      readonly connectionId: string;
      readonly uid: string;
      readonly from: number;
      readonly to: number;
      readonly toEarliest: number;
    };

/** What is as young as this was made, not changed. */
const YOUNG = 60_000;

interface Held {
  object: InventoryObject;
  from: number;
  /** It may have begun this early. */
  earliest: number;
  /** What was seen to change, in words; null where it was merely found so, or nothing that one would call a change. */
  changed: string | null;
}

/** What one cluster is now, in memory; every change of it goes out as writes of versions. */
export class ClusterInventory {
  private readonly byUid = new Map<string, Held>();
  private readonly byKind = new Map<InventoryKind, Map<string, InventoryObject>>(
    INVENTORY_KINDS.map((kind) => [kind, new Map()]),
  );
  /** By kind, namespace and name; one that is made anew may stand beside the one that is going. Null until somebody asks. */
  private byName: Map<string, InventoryObject[]> | null = null;
  /** Pods of a workload, by namespace and workload key; made anew when pods or replica sets changed. */
  private grouped: Map<string, PodObject[]> | null = null;
  events = new EventLog();

  constructor(
    private readonly connectionId: string,
    private readonly write: (write: VersionWrite) => void,
  ) {}

  /** Takes an open version from the store at the start. */
  restore(object: InventoryObject, from: number, earliest = from): void {
    this.hold({ object, from, earliest, changed: null });
  }

  changed(object: InventoryObject, at: number, earliest: number): boolean {
    const held = this.byUid.get(object.uid);
    if (held && sameState(held.object, object)) {
      // figures of the moment are no new state, and are still the newest
      if (object.kind === 'autoscaler') this.hold({ ...held, object });
      return false;
    }
    if (held) {
      // two changes within one millisecond still get an order of their own
      const moment = Math.max(at, held.from + 1);
      this.write({
        write: 'close',
        connectionId: this.connectionId,
        uid: object.uid,
        from: held.from,
        to: moment,
        toEarliest: Math.max(held.from, Math.min(earliest, moment)),
      });
      this.open({
        object,
        from: moment,
        fromEarliest: Math.min(earliest, moment),
        changed: changeWords(held.object, object),
      });
    } else
      this.open({
        object,
        from: at,
        fromEarliest: Math.max(Math.min(earliest, at), Math.min(object.createdAt, at)),
        changed: null,
      });
    return true;
  }

  deleted(uid: string, at: number, earliest: number): boolean {
    const held = this.byUid.get(uid);
    if (!held) return false;
    const to = Math.max(at, held.from + 1);
    this.write({
      write: 'close',
      connectionId: this.connectionId,
      uid,
      from: held.from,
      to,
      toEarliest: Math.max(held.from, Math.min(earliest, to)),
    });
    this.byUid.delete(uid);
    this.byKind.get(held.object.kind)?.delete(uid);
    this.forgetName(held.object);
    this.grouped = null;
    return true;
  }

  /** A whole list replaces what is held of a kind: nothing lost, nothing doubled. Yields after each object. */
  *resync({
    kind,
    objects,
    at,
    earliest,
  }: {
    readonly kind: InventoryKind;
    readonly objects: readonly InventoryObject[];
    readonly at: number;
    readonly earliest: number;
  }): Generator<void, void> {
    const listed = new Set(objects.map(({ uid }) => uid));
    for (const uid of [...this.table(kind).keys()]) if (!listed.has(uid)) this.deleted(uid, at, earliest);
    for (const object of objects) {
      this.changed(object, at, earliest);
      yield;
    }
  }

  /** A copy that holds only what somebody may see: what belongs to no namespace, and the namespaces shown. */
  narrowed(sees: (namespace: string) => boolean): ClusterInventory {
    const copy = new ClusterInventory(this.connectionId, () => undefined);
    for (const { object, from, earliest } of this.byUid.values()) {
      const namespace = object.kind === 'namespace' ? object.name : object.namespace;
      if (namespace === null || sees(namespace)) copy.restore(object, from, earliest);
    }
    copy.events = this.events.narrowed(sees);
    return copy;
  }

  /** The states that hold now, of these kinds, oldest first. */
  openVersions(kinds: ReadonlySet<InventoryKind>): ObjectVersion[] {
    const open: ObjectVersion[] = [];
    for (const { object, from, earliest } of this.byUid.values())
      if (kinds.has(object.kind)) open.push({ object, from, fromEarliest: earliest, to: null, toEarliest: null });
    return open.sort((a, b) => a.from - b.from);
  }
  get(uid: string): InventoryObject | undefined {
    return this.byUid.get(uid)?.object;
  }
  /** When an object last changed, who did it and what: as it says itself, else as it was seen. Null when neither is known. */
  lastChange(uid: string): { at: number; who: string | null; words: string } | null {
    const held = this.byUid.get(uid);
    if (!held) return null;
    const words = held.changed ?? '';
    const told = held.object.changedBy ?? null;
    if (told && told.at > held.object.createdAt + YOUNG) return { ...told, words };
    return held.changed === null ? null : { at: held.from, who: null, words };
  }
  /** `namespace`: "" of what belongs to none. */
  named<K extends InventoryKind>(
    kind: K,
    namespace: string,
    name: string,
  ): Extract<InventoryObject, { kind: K }> | undefined {
    if (!this.byName) {
      this.byName = new Map();
      for (const { object } of this.byUid.values()) this.noteName(object);
    }
    // what has the name of a kind is of that kind
    return this.byName.get(nameKey({ kind, namespace, name }))?.[0] as
      | Extract<InventoryObject, { kind: K }>
      | undefined;
  }
  list<K extends InventoryKind>(kind: K): Extract<InventoryObject, { kind: K }>[] {
    return [...this.table(kind).values()] as Extract<InventoryObject, { kind: K }>[]; // the table of a kind holds that kind
  }
  count(kind: InventoryKind): number {
    return this.table(kind).size;
  }
  /** `besides` knows owners that are there no more. */
  workloadOf(pod: PodObject, besides: (uid: string) => InventoryObject | undefined = () => undefined): WorkloadRef {
    return workloadOf(pod, (uid) => this.get(uid) ?? besides(uid));
  }
  podsOf(namespace: string, key: string): PodObject[] {
    if (!this.grouped) {
      this.grouped = new Map();
      for (const pod of this.list('pod')) {
        const place = `${pod.namespace}/${workloadKey(this.workloadOf(pod))}`;
        const group = this.grouped.get(place);
        if (group) group.push(pod);
        else this.grouped.set(place, [pod]);
      }
    }
    return this.grouped.get(`${namespace}/${key}`) ?? [];
  }

  private open({
    object,
    from,
    fromEarliest,
    changed,
  }: {
    readonly object: InventoryObject;
    readonly from: number;
    readonly fromEarliest: number;
    readonly changed: string | null;
  }): void {
    this.write({ write: 'open', connectionId: this.connectionId, object, from, fromEarliest });
    this.hold({ object, from, earliest: fromEarliest, changed });
  }
  private hold({
    object,
    from,
    earliest,
    changed,
  }: {
    readonly object: InventoryObject;
    readonly from: number;
    readonly earliest: number;
    readonly changed: string | null;
  }): void {
    const before = this.byUid.get(object.uid);
    if (before) this.forgetName(before.object);
    this.noteName(object);
    this.byUid.set(object.uid, { object, from, earliest, changed });
    this.table(object.kind).set(object.uid, object);
    this.grouped = null;
  }
  private noteName(object: InventoryObject): void {
    if (!this.byName) return;
    const key = nameKey(object);
    const alike = this.byName.get(key);
    if (alike) alike.push(object);
    else this.byName.set(key, [object]);
  }
  private forgetName(object: InventoryObject): void {
    if (!this.byName) return;
    const key = nameKey(object);
    const left = this.byName.get(key)?.filter(({ uid }) => uid !== object.uid) ?? [];
    if (left.length === 0) this.byName.delete(key);
    else this.byName.set(key, left);
  }
  private table(kind: InventoryKind): Map<string, InventoryObject> {
    return this.byKind.get(kind)!; // every kind has a table from the start
  }
}
const nameKey = ({
  kind,
  namespace,
  name,
}: {
  readonly kind: InventoryKind;
  readonly namespace: string | null;
  readonly name: string;
}): string => `${kind}\n${namespace ?? ''}\n${name}`;
