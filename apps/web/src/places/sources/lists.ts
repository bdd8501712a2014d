import type { DropRule } from '../../state/coverageApi.ts';

const LABEL = /^[a-zA-Z_][a-zA-Z0-9_]{0,99}$/;
const linesOf = (text: string) =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '');

/** "name: value" a line. */
export function readLabels(text: string): { labels: Record<string, string>; problem: string | null } {
  const labels: Record<string, string> = {};
  for (const line of linesOf(text)) {
    const colon = line.indexOf(':');
    const name = line.slice(0, colon).trim();
    if (colon < 0) return { labels, problem: `“${line}”: write a name, a colon, and a value` };
    if (!LABEL.test(name)) return { labels, problem: `“${name}” is no name of a label: letters, digits, underscores` };
    labels[name] = line.slice(colon + 1).trim();
  }
  return { labels, problem: null };
}
export const labelText = (labels: Readonly<Record<string, string>>): string =>
  Object.entries(labels)
    .map(([name, value]) => `${name}: ${value}`)
    .join('\n');

/** "key: value" a line, for selecting by labels or annotations: keys may have dots and slashes, no value means any. */
export function readSelector(text: string): { selector: Record<string, string>; problem: string | null } {
  const selector: Record<string, string> = {};
  for (const line of linesOf(text)) {
    const colon = line.indexOf(':');
    const key = (colon < 0 ? line : line.slice(0, colon)).trim();
    if (!/^[A-Za-z0-9._/-]{1,317}$/.test(key)) return { selector, problem: `“${key}” is no key of a label` };
    selector[key] = colon < 0 ? '' : line.slice(colon + 1).trim();
  }
  return { selector, problem: null };
}
export const selectorText = (selector: Readonly<Record<string, string>>): string =>
  Object.entries(selector)
    .map(([key, value]) => (value === '' ? key : `${key}: ${value}`))
    .join('\n');

/** "metric" or "metric where label is value" a line; * stands for anything. */
export function readDrops(text: string): { rules: DropRule[]; problem: string | null } {
  const rules: DropRule[] = [];
  for (const line of linesOf(text)) {
    const parts = /^(\S+)(?:\s+where\s+(\S+)\s+is\s+(.*))?$/.exec(line);
    if (!parts)
      return { rules, problem: `“${line}”: write METRIC, or METRIC where LABEL is VALUE; * stands for anything` };
    const [, metric = '', label = '', is = ''] = parts;
    if (label !== '' && !LABEL.test(label)) return { rules, problem: `“${label}” is no name of a label` };
    rules.push({ metric, label, is });
  }
  return { rules, problem: null };
}
export const dropText = (rules: readonly DropRule[]): string =>
  rules.map(({ metric, label, is }) => (label === '' ? metric : `${metric} where ${label} is ${is}`)).join('\n');

export interface Listed {
  readonly line: number;
  readonly key: string;
  readonly address: string;
  readonly group: string;
  /** The cluster whose API hands it on; null: directly. */
  readonly through: string | null;
  /** Null: as its group. */
  readonly intervalSeconds: number | null;
  readonly labels: Record<string, string>;
  readonly problem: string | null;
}
const FIELDS = ['name', 'address', 'every', 'group', 'through'];
/**
 * A pasted list: one endpoint a line, either its address alone, or fields parted by commas, semicolons or tabs: name,
 * address, seconds, group, the cluster it is reached through. A first line of field names may add labels: "name,address,every,quay".
 */
export function readList(text: string): Listed[] {
  const lines = text.split('\n').map((line) => line.trim());
  const separator = /\t/.test(text) ? '\t' : /;/.test(text) ? ';' : ',';
  const cells = (line: string) => line.split(separator).map((cell) => cell.trim().replace(/^"(.*)"$/, '$1'));
  const first = lines.findIndex((line) => line !== '');
  const head = first < 0 ? [] : cells(lines[first]!).map((cell) => cell.toLowerCase());
  const hasHead = head.includes('address');
  const names = hasHead ? head : FIELDS;
  const seen = new Set<string>();
  return lines.flatMap((line, i): Listed[] => {
    if (line === '' || line.startsWith('#') || (hasHead && i === first)) return [];
    const own = cells(line);
    const field = (name: string) => own[names.indexOf(name)] ?? '';
    const alone = !hasHead && own.length === 1;
    const address = alone ? own[0]! : field('address');
    const every = alone ? '' : field('every');
    const key = (alone || field('name') === '' ? keyFor(address) : field('name').toLowerCase()).slice(0, 60);
    const labels = Object.fromEntries(
      hasHead
        ? names
            .map((name, at) => [name, own[at] ?? ''] as const)
            .filter(([name, value]) => !FIELDS.includes(name) && value !== '')
        : [],
    );
    const problem =
      !/^https?:\/\//.test(address) || !URL.canParse(address)
        ? `“${address}” is no address; write http://host:port/path`
        : !/^[a-z0-9]([a-z0-9-]{0,58}[a-z0-9])?$/.test(key)
          ? `“${key}” is no name: small letters, digits and dashes`
          : seen.has(key)
            ? `${key} stands twice in the list`
            : every !== '' && (!/^\d+$/.test(every) || Number(every) < 1 || Number(every) > 3600)
              ? `“${every}” is no interval: 1 to 3600 seconds`
              : (Object.keys(labels).find((name) => !LABEL.test(name)) ?? null) !== null
                ? 'a field name is no name of a label'
                : null;
    seen.add(key);
    const group = alone ? '' : field('group').slice(0, 60);
    const through = alone || field('through') === '' ? null : field('through');
    return [
      {
        line: i + 1,
        key,
        address,
        group,
        through,
        intervalSeconds: every === '' ? null : Number(every),
        labels,
        problem,
      },
    ];
  });
}
const keyFor = (address: string): string =>
  URL.canParse(address)
    ? `${new URL(address).host}${new URL(address).pathname}`
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, '-')
        .replace(/^-+|-+$/g, '')
    : address;
