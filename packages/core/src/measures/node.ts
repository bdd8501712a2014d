import type { Condition, Operator, Step } from './tree.ts';
import type { Unit } from './units.ts';

/** What lines are of, as steps see them. */
export type Kind = 'counter' | 'gauge' | 'histogram' | 'number';

/** What has to be read. */
export interface Read {
  readonly of: { readonly is: 'metric' | 'vital'; readonly name: string };
  /** Of every series of it those that fit; labels that are added later cannot be asked for here. */
  readonly where: readonly Condition[];
  /** A body may look beyond the scope that a person has chosen; grants always hold. */
  readonly whateverTheScope: boolean;
}

interface Common {
  readonly kind: Kind;
  readonly unit: Unit;
  /** Where the other side of an operator has a value and this one has none, 0 stands in. */
  readonly missingIsZero: boolean;
}
/** A checked body: what is computed from what. Bindings that are used twice are one node. */
export type Node = Common &
  (
    | { readonly is: 'read'; readonly read: Read }
    | { readonly is: 'step'; readonly step: Step; readonly of: Node }
    | { readonly is: 'number'; readonly value: number }
    | { readonly is: 'minus'; readonly of: Node }
    | {
        readonly is: 'operator';
        readonly operator: Operator;
        readonly left: Node;
        readonly right: Node;
        readonly pairedBy: readonly string[] | null;
      }
    | { readonly is: 'smaller' | 'larger'; readonly left: Node; readonly right: Node }
  );

export interface WrittenStep {
  /** The binding that it stands in; null: what is shown. */
  readonly binding: string | null;
  readonly text: string;
  readonly node: Node;
}

/** A body that means something. */
export interface Plan {
  readonly result: Node;
  /** As the body asks for it: "percent"; null: in its unit. */
  readonly shownAs: string | null;
  /** Every read, each once. */
  readonly reads: readonly Read[];
  /** Each step as it is written, in order, and what it gives; the last is the result. Those of saved measures are one. */
  readonly steps: readonly WrittenStep[];
  /** What is no error, and may be none the less: names that nothing bears, with the nearest. */
  readonly notes: readonly string[];
}

/** Every node that one comes from, itself first, each once. */
export function walk(node: Node, visit: (node: Node) => void, seen = new Set<Node>()): void {
  if (seen.has(node)) return;
  seen.add(node);
  visit(node);
  if (node.is === 'step' || node.is === 'minus') walk(node.of, visit, seen);
  if (node.is === 'operator' || node.is === 'smaller' || node.is === 'larger') {
    walk(node.left, visit, seen);
    walk(node.right, visit, seen);
  }
}
