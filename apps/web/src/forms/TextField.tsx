import { Field } from './Field.tsx';

interface Props {
  readonly id: string;
  readonly label: string;
  readonly error?: string | undefined;
  readonly value: string;
  readonly set: (text: string) => void;
  readonly placeholder?: string | undefined;
  readonly disabled?: boolean;
  readonly maxLength?: number;
  /** What keyboards on glass offer. */
  readonly inputMode?: 'text' | 'decimal';
  readonly type?: 'text' | 'datetime-local';
  /** Several lines. */
  readonly rows?: number;
}

/** One labelled field of text with its problem under it. */
export function TextField({ id, label, error, value, set, rows, type = 'text', inputMode = 'text', ...more }: Props) {
  return (
    <Field id={id} label={label} error={error}>
      {rows === undefined ? (
        <input
          id={id}
          type={type}
          inputMode={inputMode}
          className="field"
          value={value}
          onChange={({ target }) => set(target.value)}
          {...more}
        />
      ) : (
        <textarea
          id={id}
          className="field"
          rows={rows}
          value={value}
          onChange={({ target }) => set(target.value)}
          {...more}
        />
      )}
    </Field>
  );
}
