/** Some of a list, each with a box. */
export function Choices<T extends string>({
  legend,
  all,
  chosen,
  set,
  words = (one) => one,
  problem,
}: {
  legend: string;
  all: readonly T[];
  chosen: readonly T[];
  set: (next: T[]) => void;
  words?: (one: T) => string;
  problem?: string | undefined;
}) {
  return (
    <fieldset className="mb-2">
      <legend className="text-sm font-semibold">{legend}</legend>
      {all.map((one) => (
        <label key={one} className="mr-3 inline-flex items-center gap-1.5 text-sm">
          <input
            type="checkbox"
            checked={chosen.includes(one)}
            onChange={({ target }) => set(target.checked ? [...chosen, one] : chosen.filter((other) => other !== one))}
          />
          {words(one)}
        </label>
      ))}
      {problem !== undefined && (
        <p role="alert" className="text-sm text-critical">
          {problem}
        </p>
      )}
    </fieldset>
  );
}
