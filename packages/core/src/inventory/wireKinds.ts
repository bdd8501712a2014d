import type { InventoryKind } from './objects.ts';
import { WIRE_KINDS } from './wire-names.ts';

const BY_WIRE = new Map(Object.entries(WIRE_KINDS).map(([kind, wire]) => [wire as string, kind as InventoryKind])); // its own keys
/** Our kind of what a cluster calls so; null where it is none that is known here. */
export const kindNamed = (wire: string): InventoryKind | null => BY_WIRE.get(wire) ?? null;
