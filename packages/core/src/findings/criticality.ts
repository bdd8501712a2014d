import { CRITICALITIES, type Criticality } from './effect.ts';

/** How a cluster's namespaces and workloads are told apart by how much hangs on them. */
export interface CriticalityWords {
  /** The label by which they say it themselves. */
  readonly label: string;
  /** What people say of them; `workload` is its kind and name, "deployment:web"; null: the whole namespace. */
  readonly places: readonly {
    readonly namespace: string;
    readonly workload: string | null;
    readonly is: Criticality;
  }[];
}
export interface ToldCriticality {
  readonly is: Criticality;
  /** Who says so, in words; null where nobody does. */
  readonly because: string | null;
}
interface Labelled {
  readonly labels: Readonly<Record<string, string>>;
}
interface NamedNamespace extends Labelled {
  readonly name: string;
}
interface KeyedWorkload extends Labelled {
  readonly key: string;
}

const NOBODY: ToldCriticality = { is: 'ordinary', because: null };

/** The nearest word counts: of the workload before its namespace, what a person says before a label. Unknown words are none. */
export function criticalities({
  label,
  places,
}: CriticalityWords): (namespace: NamedNamespace, workload: KeyedWorkload | null) => ToldCriticality {
  const said = new Map(places.map(({ namespace, workload, is }) => [`${namespace}/${workload ?? ''}`, is]));
  const person = (place: string, whose: string): ToldCriticality | null => {
    const is = said.get(place);
    return is === undefined ? null : { is, because: `as was said of ${whose}` };
  };
  const byLabel = ({ labels }: Labelled, whose: string): ToldCriticality | null => {
    const is = CRITICALITIES.find((one) => one === labels[label]);
    return is === undefined ? null : { is, because: `by label ${label} of ${whose}` };
  };
  return (namespace, workload) =>
    (workload && (person(`${namespace.name}/${workload.key}`, 'it') ?? byLabel(workload, 'its own'))) ??
    person(`${namespace.name}/`, workload ? 'its namespace' : 'it') ??
    byLabel(namespace, workload ? 'its namespace' : 'its own') ??
    NOBODY;
}
