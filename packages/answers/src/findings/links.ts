import { readWorkloadKey } from '@zetopsis/contract';
import { blamedEnd, type Finding, linkFinding, type TroubledLink } from '@zetopsis/core/findings';
import { type LinkEnd, OUTSIDE } from '@zetopsis/core/links';

const otherOf = { from: 'to', to: 'from' } as const;

/**
 * By namespace and workload of a cluster: links in trouble, each at the end that it most likely comes from. `sees`: of the cluster. Whoever
 * stands in another cluster is not named: who may see this one need not see that.
 */
export function linksAtTheirEnds(
  links: readonly TroubledLink[],
  cluster: string,
  sees: (namespace: string) => boolean,
): Map<string, readonly Finding[]> {
  const found = new Map<string, readonly Finding[]>();
  for (const link of links) {
    const at = standsAt(link);
    if (at === null || link[at].cluster !== cluster || !sees(link[at].namespace)) continue;
    const other = link[otherOf[at]];
    const named = other.cluster === '' || (other.cluster === cluster && sees(other.namespace));
    const key = `${link[at].namespace}/${link[at].workload}`;
    found.set(key, [...(found.get(key) ?? []), linkFinding(link, at, named ? nameOf(other, at) : null)]);
  }
  return found;
}
/** Who is no workload of a cluster has no place where it could be told: then it stands at the other end. */
function standsAt(link: TroubledLink): 'from' | 'to' | null {
  const blamed = blamedEnd(link);
  return [blamed, otherOf[blamed]].find((at) => readWorkloadKey(link[at].workload) !== null) ?? null;
}
const nameOf = ({ workload }: LinkEnd, at: 'from' | 'to'): string =>
  workload === OUTSIDE.workload
    ? at === 'to'
      ? 'Somebody outside'
      : 'somebody outside'
    : workload.slice(workload.indexOf(':') + 1);
