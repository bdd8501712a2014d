import type { ClusterInventory } from '@zetopsis/core/inventory';
import type { Resource } from '@zetopsis/core/units';

/** Of several quotas the tightest holds; a quota on limits says more of use than one on requests. */
export function quotaOf(inventory: ClusterInventory, namespace: string, resource: Resource): number | null {
  const rows = inventory
    .list('quota')
    .filter((quota) => quota.namespace === namespace)
    .flatMap((quota) => quota.rows);
  for (const name of [`limits.${resource}`, `requests.${resource}`]) {
    const hard = rows.filter((row) => row.resource === name).map((row) => row.hard);
    if (hard.length > 0) return Math.min(...hard);
  }
  return null;
}
