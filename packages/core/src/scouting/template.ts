/** What a template may speak of: `{namespace}`, `{label.team}`, `{annotation.example/zone}` and so on. */
export interface TemplateValues {
  readonly names: Readonly<Record<string, string>>;
  readonly labels: Readonly<Record<string, string>>;
  readonly annotations: Readonly<Record<string, string>>;
}
const PLACE = /\{([^{}]*)\}/g;
export const TEMPLATE_NAMES = [
  'cluster',
  'namespace',
  'workload',
  'pod',
  'container',
  'node',
  'service',
  'port',
] as const;

/** Null when the template is in order, else what is wrong with it. */
export function templateProblem(template: string): string | null {
  for (const [, place = ''] of template.matchAll(PLACE)) {
    const known = (TEMPLATE_NAMES as readonly string[]).includes(place) || /^(label|annotation)\.\S+$/.test(place);
    if (!known)
      return `{${place}} is not known; there are ${TEMPLATE_NAMES.map((name) => `{${name}}`).join(', ')}, {label.KEY} and {annotation.KEY}`;
  }
  return null;
}
/** What an object lacks is left empty; a label that is empty in the end is not attached. */
export function fillTemplate(template: string, values: TemplateValues): string {
  return template.replace(PLACE, (_, place: string) => {
    const [kind = '', key = ''] = [place.split('.', 1)[0], place.slice(place.indexOf('.') + 1)];
    if (kind === 'label') return values.labels[key] ?? '';
    if (kind === 'annotation') return values.annotations[key] ?? '';
    return values.names[place] ?? '';
  });
}
