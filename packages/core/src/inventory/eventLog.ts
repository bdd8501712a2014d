import type { ClusterEvent, InventoryObject } from './objects.ts';
import { WIRE_KINDS } from './wire-names.ts';

/** Of one object, and of all: what a cluster says is bounded by nobody else. */
const MOST_ABOUT_ONE = 40;
const MOST = 20_000;

type Named = Pick<InventoryObject, 'kind' | 'namespace' | 'name' | 'uid'>;

/** What a cluster said lately about its objects; the newest of each, and of all. */
export class EventLog {
  /** By their own uid, the one heard last at the end. */
  private readonly heard = new Map<string, ClusterEvent>();
  private readonly byAbout = new Map<string, Map<string, ClusterEvent>>();

  get size(): number {
    return this.heard.size;
  }
  note(event: ClusterEvent): void {
    this.heard.delete(event.uid);
    this.heard.set(event.uid, event);
    const key = keyOf(event);
    const own = this.byAbout.get(key) ?? new Map<string, ClusterEvent>();
    this.byAbout.set(key, own);
    own.delete(event.uid);
    own.set(event.uid, event);
    if (own.size > MOST_ABOUT_ONE) this.forget(own.values().next().value!); // not empty here
    if (this.heard.size > MOST) this.forget(this.heard.values().next().value!); // not empty here
  }
  /** Newest first. */
  about(object: Named): ClusterEvent[] {
    const found = [
      ...(this.byAbout.get(object.uid)?.values() ?? []),
      ...(this.byAbout.get(placeOf(object))?.values() ?? []),
    ];
    return found.sort((a, b) => b.lastAt - a.lastAt);
  }
  /** What is said of no namespace may name anybody. */
  narrowed(sees: (namespace: string) => boolean): EventLog {
    const copy = new EventLog();
    for (const event of this.heard.values()) if (event.namespace !== null && sees(event.namespace)) copy.note(event);
    return copy;
  }

  private forget(event: ClusterEvent): void {
    this.heard.delete(event.uid);
    const key = keyOf(event);
    const own = this.byAbout.get(key);
    own?.delete(event.uid);
    if (own?.size === 0) this.byAbout.delete(key);
  }
}

/** Some say what they are about by its name only. */
const keyOf = ({ about, namespace }: ClusterEvent): string =>
  about.uid === '' ? `${about.kind} ${namespace ?? ''} ${about.name}` : about.uid;
const placeOf = ({ kind, namespace, name }: Named): string => `${WIRE_KINDS[kind]} ${namespace ?? ''} ${name}`;
