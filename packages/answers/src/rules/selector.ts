import { clusterOf, namespaceOf, type ObjectPath, type RuleSelector } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import type { Traits } from './subject.ts';

/** Whether a selector leaves everything in. */
export const selectsAll = ({ clusters, namespaces, teams, labels, criticality }: RuleSelector): boolean =>
  [clusters, namespaces, teams, criticality, Object.keys(labels)].every(({ length }) => length === 0);

/** Whether an object is one of those that a rule looks at; `traits` and `team` are asked for only where something hangs on them. */
export function selects(
  { clusters, namespaces, teams, labels, criticality }: RuleSelector,
  path: ObjectPath,
  { team, traits }: { readonly team: () => string | null; readonly traits: () => Traits },
): boolean {
  const oneOf = (list: readonly string[], own: string | null) =>
    list.length === 0 || (own !== null && list.includes(own));
  if (!oneOf(clusters, clusterOf(path)) || !oneOf(namespaces, namespaceOf(path))) return false;
  if (teams.length > 0 && !oneOf(teams, team())) return false;
  if (criticality.length > 0 && !criticality.includes(traits().criticality)) return false;
  const wanted = Object.entries(labels);
  return wanted.length === 0 || wanted.every(([key, is]) => traits().labels[key] === is);
}

/** A selector of everybody's as those read it who see a part: what it names of others is left out. */
export const selectorSeen = (selector: RuleSelector, reach: Reach): RuleSelector => ({
  ...selector,
  clusters: selector.clusters.filter((cluster) => reach.touches(cluster)),
  namespaces: selector.namespaces.filter((namespace) => reach.permits.some((own) => own.namespace === namespace)),
  teams: [],
  labels: {},
});
