import type { PermitAnswer, SightAnswer } from '@zetopsis/contract';
import { formatCount } from '@zetopsis/core/format';
import { TableHead } from '../../drawing/TableHead.tsx';

type Level = PermitAnswer['level'];
export const LEVEL_WORDS: Record<Level, string> = {
  read: 'read',
  operate: 'read and operate',
  administer: 'read, operate and administer',
};

/** "every cluster", "all of seaward", "ticketing in every cluster" */
export function placeWords({ cluster, namespace }: { cluster: string | null; namespace: string | null }): string {
  if (namespace === null) return cluster === null ? 'every cluster' : `all of ${cluster}`;
  return cluster === null ? `${namespace} in every cluster` : `${cluster} › ${namespace}`;
}

/** Why somebody may do something somewhere, one line a reason. */
export function Permits({ permits }: { permits: readonly PermitAnswer[] }) {
  if (permits.length === 0) return <p className="text-soft">Nothing: in no team that owns something, and no grant.</p>;
  return (
    <table className="w-full text-sm">
      <TableHead of={['where', 'may', 'why']} />
      <tbody>
        {permits.map((permit) => (
          <tr
            key={`${permit.cluster} ${permit.namespace} ${permit.level} ${permit.why}`}
            className="border-b border-hair align-baseline"
          >
            <td className="py-1 pr-3">{placeWords(permit)}</td>
            <td className="py-1 pr-3">{LEVEL_WORDS[permit.level]}</td>
            <td className="py-1 text-soft">{permit.why}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What that comes to in the clusters as they are now. */
export function Sight({ sight }: { sight: SightAnswer }) {
  return (
    <ul className="mt-3 space-y-2 text-sm">
      {sight.clusters.map(({ cluster, whole, namespaces, hidden }) => (
        <li key={cluster}>
          <b className="font-semibold">{cluster}</b>{' '}
          <span className="text-soft">
            {whole
              ? 'all of it, with its nodes'
              : namespaces.length === 0
                ? `nothing; ${formatCount(hidden, 'namespace')} hidden`
                : `${formatCount(namespaces.length, 'namespace')}, its totals and nodes; ${hidden} hidden, shown as one nameless share`}
          </span>
          {!whole && namespaces.length > 0 && (
            <p>
              {namespaces.map(({ namespace, level, why }, i) => (
                <span key={namespace} title={`${LEVEL_WORDS[level]}: ${why.join('; ')}`}>
                  {i > 0 && ', '}
                  {namespace}
                </span>
              ))}
            </p>
          )}
        </li>
      ))}
    </ul>
  );
}
