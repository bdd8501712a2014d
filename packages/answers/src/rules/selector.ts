import {
  clusterOf,
  namesOf,
  namespaceOf,
  type ObjectPath,
  type RuleSelector,
  type SelectedKind,
} from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { wildcard } from '@zetopsis/core/scouting';
import type { Traits } from './subject.ts';

/** Whether a selector leaves everything in. */
export const selectsAll = ({ labels, ...lists }: RuleSelector): boolean =>
  [...Object.values(lists), Object.keys(labels)].every(({ length }) => length === 0);

/** Whether an object is one of those that a rule looks at; `traits` and `team` are asked for only where something hangs on them. */
export function selects(
  { clusters, environments, namespaces, teams, labels, criticality, kinds, names }: RuleSelector,
  path: ObjectPath,
  {
    team,
    traits,
    environment,
  }: {
    readonly team: () => string | null;
    readonly traits: () => Traits;
    /** Of its cluster. */
    readonly environment: () => string;
  },
): boolean {
  const oneOf = (list: readonly string[], own: string | null) =>
    list.length === 0 || (own !== null && list.includes(own));
  if (!oneOf(clusters, clusterOf(path)) || !oneOf(namespaces, namespaceOf(path))) return false;
  if (environments.length > 0 && !environments.includes(environment())) return false;
  if (kinds.length > 0 && !oneOf(kinds, selectedKindOf(path))) return false;
  if (names.length > 0 && !names.some((form) => wildcard(form)(namesOf(path).at(-1) ?? ''))) return false;
  if (teams.length > 0 && !oneOf(teams, team())) return false;
  if (criticality.length > 0 && !criticality.includes(traits().criticality)) return false;
  const wanted = Object.entries(labels);
  return wanted.length === 0 || wanted.every(([key, is]) => traits().labels[key] === is);
}

/** What a selector calls the kind of an object; null where it has no word for it. */
function selectedKindOf(path: ObjectPath): SelectedKind | null {
  switch (path.is) {
    case 'workload':
      return path.workload.kind === 'lone pod' || path.workload.kind === 'other' ? null : path.workload.kind;
    case 'accessory':
      return path.kind;
    case 'everything':
    case 'host':
    case 'team':
      return null;
    default:
      return path.is;
  }
}

/** A selector of everybody's as those read it who see a part: what it names of others is left out. */
export const selectorSeen = (selector: RuleSelector, reach: Reach): RuleSelector => ({
  ...selector,
  clusters: selector.clusters.filter((cluster) => reach.touches(cluster)),
  namespaces: selector.namespaces.filter((namespace) => reach.permits.some((own) => own.namespace === namespace)),
  teams: [],
  labels: {},
  names: [],
});
