import { type ClusterInventory, rolloutsOf } from '@zetopsis/core/inventory';
import { type EpochMs, HOUR, MINUTE } from '@zetopsis/core/units';

/** What changed shortly before something began, in words: its rollout, and what its pods read. */
export function changedBefore(inventory: ClusterInventory, uid: string, since: EpochMs): string | null {
  const near = (at: EpochMs) => at <= since + MINUTE && at >= since - HOUR;
  const rollout = rolloutsOf(inventory.list('replica set'))
    .filter(({ deploymentUid, at }) => deploymentUid === uid && near(at))
    .at(-1);
  const found: { at: EpochMs; words: string }[] = [];
  const workload = inventory.get(uid);
  const uses = workload && 'uses' in workload ? workload.uses : null;
  for (const [kind, names] of [
    ['config map', uses?.configMaps ?? []],
    ['secret', uses?.secrets ?? []],
  ] as const) {
    for (const name of names) {
      const object = inventory.named(kind, workload?.namespace ?? '', name);
      const change = object ? inventory.lastChange(object.uid) : null;
      if (!change || !near(change.at)) continue;
      const what = change.words === '' ? 'changed' : change.words;
      found.push({
        at: change.at,
        words: `${kind} ${name}: ${what}${change.who === null ? '' : `, by ${change.who}`}`,
      });
    }
  }
  // the cluster tells whole seconds: of two in one second the settings came first, or the rollout would not have them
  if (rollout) found.push({ at: rollout.at, words: `rollout of ${rollout.name}: ${rollout.change}` });
  return found.length === 0
    ? null
    : found
        .sort((a, b) => a.at - b.at)
        .map(({ words }) => words)
        .join('; then ');
}
