import type { MessageFacts } from './message.ts';

/** What a program receives of an alert. Its form has a version: fields are added, none changes its meaning within one. */
export interface HookBody {
  readonly version: 1;
  /** The same for a copy of the same message. */
  readonly key: string;
  readonly change: MessageFacts['change'] | 'test' | 'digest' | 'heartbeat';
  readonly severity: MessageFacts['severity'];
  readonly title: string;
  /** Cluster, namespace and what follows, in words. */
  readonly place: readonly string[];
  readonly rule: string;
  /** ISO 8601. */
  readonly at: string;
  readonly since: string;
  readonly value: string;
  readonly limit: string;
  readonly reason: string;
  readonly evidence: string;
  readonly changed: string;
  readonly nextStep: string;
  readonly runbook: string;
  readonly links: MessageFacts['links'];
  readonly team: string;
  readonly link: string;
  /** Of a digest: what stands in it, oldest first. */
  readonly messages?: readonly HookBody[];
}

export function hookBody(key: string, facts: MessageFacts): HookBody {
  const {
    change,
    severity,
    title,
    place,
    rule,
    at,
    since,
    value,
    limit,
    reason,
    evidence,
    nextStep,
    runbook,
    links,
    team,
    link,
  } = facts;
  return {
    version: 1,
    key,
    change,
    severity,
    title,
    place,
    rule,
    at: new Date(at).toISOString(),
    since: new Date(since).toISOString(),
    value: facts.by?.value ?? value,
    limit,
    reason,
    evidence,
    changed: facts.changed ?? '',
    nextStep,
    runbook,
    links,
    team,
    link,
  };
}

/** What may stand in braces in a text of a template. */
export const HOOK_FIELDS = [
  'key',
  'change',
  'severity',
  'title',
  'place',
  'rule',
  'at',
  'since',
  'value',
  'limit',
  'reason',
  'evidence',
  'changed',
  'nextStep',
  'runbook',
  'team',
  'link',
] as const satisfies readonly Exclude<keyof HookBody, 'links' | 'messages'>[];
const FIELD = /\{([a-zA-Z]{1,20})\}/g;

/** Why a template cannot be filled; null where it can. It is JSON, and texts in it name fields in braces. */
export function templateProblem(template: string): string | null {
  let read: unknown;
  try {
    read = JSON.parse(template);
  } catch {
    return 'this is no JSON';
  }
  if (typeof read !== 'object' || read === null) return 'a template is an object or a list';
  for (const text of textsIn(read))
    for (const [, name] of text.matchAll(FIELD))
      if (!HOOK_FIELDS.some((field) => field === name))
        return `there is no field {${name}}; there are ${HOOK_FIELDS.join(', ')}`;
  return null;
}
function* textsIn(value: unknown): Generator<string> {
  if (typeof value === 'string') yield value;
  else if (typeof value === 'object' && value !== null) for (const part of Object.values(value)) yield* textsIn(part);
}

/** A body by a template: what an alert says stands in its texts as it is, and can change nothing about its form. */
export function filledTemplate(template: string, body: HookBody): string {
  const words = (name: (typeof HOOK_FIELDS)[number]): string => {
    const value = body[name];
    return typeof value === 'string' ? value : value.join(' › ');
  };
  const fill = (value: unknown): unknown => {
    if (typeof value === 'string')
      return value.replace(FIELD, (whole, name: string) => {
        const field = HOOK_FIELDS.find((one) => one === name);
        return field === undefined ? whole : words(field);
      });
    if (Array.isArray(value)) return value.map(fill);
    if (typeof value !== 'object' || value === null) return value;
    return Object.fromEntries(Object.entries(value).map(([key, own]) => [key, fill(own)]));
  };
  return JSON.stringify(fill(JSON.parse(template)));
}
