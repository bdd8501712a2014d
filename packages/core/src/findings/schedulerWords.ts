/** What a scheduler gives as a reason for a number of nodes, and what it means. */
const MEANINGS: readonly [pattern: RegExp, words: string][] = [
  [/^insufficient cpu$/i, 'have too little CPU left to ask for'],
  [/^insufficient memory$/i, 'have too little memory left to ask for'],
  [/^insufficient ephemeral-storage$/i, 'have too little local storage left to ask for'],
  [/^too many pods$/i, 'have no pod slot left'],
  [/^insufficient (\S+)$/i, 'have too little $1 left to ask for'],
  [/untolerated taint\(?s?\)? ?\{?([^:}]*)/i, 'are kept for others ($1)'],
  [/node\(s\) had taints?.* that the pod didn't tolerate/i, 'are kept for others'],
  [
    /didn't match pod'?s? node affinity\/selector|didn't match (?:pod's )?node (?:selector|affinity)/i,
    'are not of the kind that it asks for',
  ],
  [/didn't match pod anti-affinity|existing pods anti-affinity/i, 'have a pod that it must not stand beside'],
  [/didn't match pod affinity/i, 'lack a pod that it wants to stand beside'],
  [/topology spread/i, 'would spread its pods unevenly'],
  [/volume node affinity conflict/i, 'do not reach its volume, which is in another zone or on another node'],
  [/volume zone|no available volume zone/i, 'are in another zone than its volume'],
  [/free ports/i, 'have its port in use already'],
  [/max volume count|too many volumes/i, 'have as many volumes as they can take'],
  [/unschedulable/i, 'take no new pods'],
  [/not ready|unreachable/i, 'are not ready'],
  [/available persistent volumes to bind/i, 'find no volume for its claim'],
];

/** "3 have too little CPU left to ask for, 2 are kept for others (dedicated)": null where it counts no nodes. */
export function schedulerInWords(message: string): string | null {
  const [, counted] =
    /^\d+\/\d+ nodes are available[:,] (.*?)(?:\. preemption:.*|\.? no new claims.*)?$/is.exec(message) ?? [];
  if (counted === undefined) return null;
  const parts = counted
    .replace(/\.$/, '')
    .split(/, (?=\d+ )/)
    .flatMap((part) => {
      const [, count, why] = /^(\d+) (.*)$/s.exec(part.trim()) ?? [];
      if (count === undefined || why === undefined) return [];
      const [pattern, words] = MEANINGS.find(([one]) => one.test(why)) ?? [];
      const found = pattern?.exec(why);
      const told = words === undefined ? why : words.replace('$1', (found?.[1] ?? '').trim()).replace(' ()', '');
      return [{ count: Number(count), words: `${count} ${told}` }];
    });
  if (parts.length === 0) return null;
  return parts
    .sort((a, b) => b.count - a.count)
    .map(({ words }) => words)
    .join(', ');
}
