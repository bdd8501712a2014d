/** What somebody may do at a place; each level holds the ones before it. */
export const LEVELS = ['read', 'operate', 'administer'] as const;
export type Level = (typeof LEVELS)[number];

const RANK: Record<Level, number> = { read: 0, operate: 1, administer: 2 };
const lower = (a: Level, b: Level): Level => (RANK[a] <= RANK[b] ? a : b);

/** One reason why somebody may see and do something somewhere. */
export interface Permit {
  readonly level: Level;
  /** Null: every cluster. */
  readonly cluster: string | null;
  /** Null: the whole cluster, with its nodes. */
  readonly namespace: string | null;
  /** In words, for "what a person can see, and why". */
  readonly why: string;
  /** The place is owned by one of the person's teams, not merely granted. */
  readonly own: boolean;
}

/** A token's own bounds: never more than this, wherever the person's grants reach. */
export type Bound = Pick<Permit, 'level' | 'cluster' | 'namespace'>;

type Exists = (cluster: string, namespace: string) => boolean;

/**
 * What one person or token may see and do. Everything that answers data takes one; it can only be made from permits, so
 * nobody can leave it out by mistake.
 */
export class Reach {
  readonly permits: readonly Permit[];
  private readonly exists: Exists;
  private constructor(permits: readonly Permit[], exists: Exists) {
    this.permits = permits;
    this.exists = exists;
  }
  /** `exists` tells in which clusters a namespace is that is permitted "in every cluster". */
  static of(permits: readonly Permit[], exists: Exists = () => true): Reach {
    return new Reach(permits, exists);
  }
  /** For Zetopsis' own judging and telling; never for an answer to somebody. */
  static ofZetopsis(): Reach {
    return Reach.of([{ level: 'administer', cluster: null, namespace: null, why: 'Zetopsis itself', own: false }]);
  }

  /** `namespace` null asks for the whole cluster. */
  may(level: Level, cluster: string, namespace: string | null): boolean {
    return this.permits.some((permit) => RANK[permit.level] >= RANK[level] && covers(permit, cluster, namespace));
  }
  mayEverywhere(level: Level): boolean {
    return this.permits.some(
      (permit) => RANK[permit.level] >= RANK[level] && permit.cluster === null && permit.namespace === null,
    );
  }
  /** Everything in the cluster, other teams' namespaces too. */
  whole(cluster: string): boolean {
    return this.may('read', cluster, null);
  }
  /** Anything at all in the cluster: then its totals and nodes are shown. */
  touches(cluster: string): boolean {
    return this.permits.some(
      (permit) =>
        permit.cluster === cluster ||
        (permit.cluster === null && (permit.namespace === null || this.exists(cluster, permit.namespace))),
    );
  }
  reads(cluster: string, namespace: string): boolean {
    return this.may('read', cluster, namespace);
  }
  /** Whether something may be shown that stands in a namespace, is shared by all of a cluster, or stands outside of all clusters. */
  sees({ cluster, namespace }: { readonly cluster: string | null; readonly namespace: string | null }): boolean {
    if (cluster === null) return this.mayEverywhere('read');
    return namespace === null ? this.touches(cluster) : this.reads(cluster, namespace);
  }

  /** Only what the person's own teams own. */
  mine(): Reach {
    return new Reach(
      this.permits.filter(({ own }) => own),
      this.exists,
    );
  }
  /** Cut down to a token's bounds. */
  within(bounds: readonly Bound[]): Reach {
    return new Reach(
      this.permits.flatMap((permit) =>
        bounds.flatMap((bound): Permit[] => {
          const cluster = meet(permit.cluster, bound.cluster);
          const namespace = meet(permit.namespace, bound.namespace);
          if (cluster === undefined || namespace === undefined) return [];
          return [{ ...permit, level: lower(permit.level, bound.level), cluster, namespace }];
        }),
      ),
      this.exists,
    );
  }
}

const covers = (permit: Permit, cluster: string, namespace: string | null): boolean =>
  (permit.cluster === null || permit.cluster === cluster) &&
  (permit.namespace === null || permit.namespace === namespace);

/** Null stands for all; undefined when the two share nothing. */
const meet = (a: string | null, b: string | null): string | null | undefined =>
  a === null ? b : b === null || a === b ? a : undefined;
