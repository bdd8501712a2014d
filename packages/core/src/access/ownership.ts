/** One way a team says what is its own. */
export type Ownership =
  | { readonly by: 'name'; readonly cluster: string | null; readonly namespace: string }
  | { readonly by: 'label' | 'annotation'; readonly cluster: string | null; readonly key: string; readonly is: string }
  | { readonly by: 'object'; readonly cluster: string | null; readonly namespace: string; readonly workload: string };

export interface Owner {
  readonly key: string;
  readonly name: string;
  readonly owns: readonly Ownership[];
}
export interface OwnedNamespace {
  readonly name: string;
  readonly labels: Readonly<Record<string, string>>;
  readonly annotations: Readonly<Record<string, string>>;
}

export const inWords = (ownership: Ownership): string => {
  const where = ownership.cluster === null ? '' : ` in ${ownership.cluster}`;
  switch (ownership.by) {
    case 'name':
      return `by its name${where}`;
    case 'label':
    case 'annotation':
      return `by its ${ownership.by} ${ownership.key}=${ownership.is}${where}`;
    case 'object':
      return `${ownership.workload} of ${ownership.namespace} was assigned to it${where}`;
  }
};

const ORDER: readonly Ownership['by'][] = ['name', 'label', 'annotation'];

/**
 * The team a namespace belongs to, and why. A name is stronger than a label, a label than an annotation; of two equals
 * the team whose key comes first. Null when nobody says it is theirs.
 */
export function ownerOfNamespace<T extends Owner>(
  teams: readonly T[],
  cluster: string,
  namespace: OwnedNamespace,
): { team: T; ownership: Ownership } | null {
  for (const by of ORDER) {
    for (const team of teams) {
      const ownership = team.owns.find(
        (own) => own.by === by && (own.cluster === null || own.cluster === cluster) && matchesNamespace(own, namespace),
      );
      if (ownership) return { team, ownership };
    }
  }
  return null;
}

function matchesNamespace(own: Ownership, namespace: OwnedNamespace): boolean {
  switch (own.by) {
    case 'name':
      return own.namespace === namespace.name;
    case 'label':
      return namespace.labels[own.key] === own.is;
    case 'annotation':
      return namespace.annotations[own.key] === own.is;
    case 'object':
      return false;
  }
}

/** A workload assigned otherwise than its namespace. */
export function assignedOwner<T extends Owner>({
  teams,
  cluster,
  namespace,
  workload,
}: {
  readonly teams: readonly T[];
  readonly cluster: string;
  readonly namespace: string;
  readonly workload: string;
}): T | null {
  return (
    teams.find((team) =>
      team.owns.some(
        (own) =>
          own.by === 'object' &&
          (own.cluster === null || own.cluster === cluster) &&
          own.namespace === namespace &&
          own.workload === workload,
      ),
    ) ?? null
  );
}
