import { Field } from './Field.tsx';

interface Props {
  readonly id: string;
  readonly label: string;
  readonly error?: string | undefined;
  /** Empty: what `nobody` says. */
  readonly value: string;
  readonly set: (team: string) => void;
  readonly teams: readonly { readonly key: string; readonly name: string }[];
  /** The choice of no team; null where there is none. */
  readonly nobody: string | null;
  readonly disabled?: boolean;
}

/** A team, or none. */
export function TeamField({ id, label, error, value, set, teams, nobody, disabled = false }: Props) {
  return (
    <Field id={id} label={label} error={error}>
      <select id={id} className="field" value={value} disabled={disabled} onChange={({ target }) => set(target.value)}>
        {nobody !== null && <option value="">{nobody}</option>}
        {teams.map(({ key, name }) => (
          <option key={key} value={key}>
            {name}
          </option>
        ))}
      </select>
    </Field>
  );
}
