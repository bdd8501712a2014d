const LONGEST_KEY = 50;
/** A key for a new document from what it is called; `kind` where nothing of that can stand in a key. */
export function freeKey(title: string, kind: string, taken: (key: string) => boolean): string {
  const letters = title
    .normalize('NFD')
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '-')
    .replaceAll(/^-+|-+$/g, '')
    .slice(0, LONGEST_KEY)
    .replaceAll(/-+$/g, '');
  const base = letters === '' ? kind : letters;
  for (let n = 1; ; n++) {
    const key = n === 1 ? base : `${base}-${n}`;
    if (!taken(key)) return key;
  }
}
