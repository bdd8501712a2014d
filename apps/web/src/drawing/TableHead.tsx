/** The head of a quiet table. */
export function TableHead({ of }: { of: readonly string[] }) {
  return (
    <thead>
      <tr className="border-b border-structure text-left text-xs text-soft">
        {of.map((head) => (
          <th key={head} className="py-1 pr-3 font-medium">
            {head}
          </th>
        ))}
      </tr>
    </thead>
  );
}
