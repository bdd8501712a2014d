import { ScoutDocument } from '@zetopsis/contract';
import { dropText, labelText, readDrops, readLabels, readSelector, selectorText } from './lists.ts';

export const EMPTY = ScoutDocument.parse({});
/** As it is typed; lists are lines, or parted by blanks. */
export const typedOf = (key: string, document: ScoutDocument) => ({
  key,
  cluster: document.cluster ?? '',
  namespaces: document.namespaces.join(' '),
  among: document.among as string,
  labels: selectorText(document.labels),
  annotations: selectorText(document.annotations),
  container: document.container,
  ports: document.ports.join(' '),
  serves: document.keys.serves,
  portKey: document.keys.port,
  pathKey: document.keys.path,
  schemeKey: document.keys.scheme,
  scheme: document.scheme as string,
  path: document.path,
  group: document.group,
  intervalSeconds: document.intervalSeconds === null ? '' : String(document.intervalSeconds),
  attach: labelText(document.attach),
  identity: document.identity,
  route: document.route as string,
  proof: document.proof as string,
  user: document.user,
  secret: '',
  authority: document.authority,
  drop: dropText(document.drop),
  over: document.over,
  off: document.use === 'off',
});
export type Typed = ReturnType<typeof typedOf>;
const words = (text: string) => text.split(/[\s,]+/).filter((word) => word !== '');

/** The document, or what is wrong by field. */
export function readScout(typed: Typed): { document: ScoutDocument | null; problems: Record<string, string> } {
  const problems: Record<string, string> = {};
  const [labels, annotations] = [readSelector(typed.labels), readSelector(typed.annotations)];
  const [attach, drop] = [readLabels(typed.attach), readDrops(typed.drop)];
  for (const [field, problem] of [
    ['labels', labels.problem],
    ['annotations', annotations.problem],
    ['attach', attach.problem],
    ['drop', drop.problem],
  ] as const)
    if (problem !== null) problems[field] = problem;
  const parsed = ScoutDocument.safeParse({
    cluster: typed.cluster === '' ? null : typed.cluster,
    namespaces: words(typed.namespaces),
    among: typed.among,
    labels: labels.selector,
    annotations: annotations.selector,
    container: typed.container,
    ports: words(typed.ports),
    keys: { serves: typed.serves, port: typed.portKey, path: typed.pathKey, scheme: typed.schemeKey },
    scheme: typed.scheme,
    path: typed.path,
    group: typed.group,
    intervalSeconds: typed.intervalSeconds.trim() === '' ? null : typed.intervalSeconds,
    attach: attach.labels,
    identity: typed.identity,
    route: typed.route,
    proof: typed.route === 'direct' ? typed.proof : 'none',
    user: typed.proof === 'basic' ? typed.user : '',
    authority: typed.authority,
    drop: drop.rules,
    over: typed.over,
    use: typed.off ? 'off' : 'on',
  });
  for (const issue of parsed.error?.issues ?? []) problems[String(issue.path[0])] ??= issue.message;
  return { document: Object.keys(problems).length === 0 ? (parsed.data ?? null) : null, problems };
}
