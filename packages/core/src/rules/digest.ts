import { formatCount } from '../format/index.ts';
import type { HookBody } from './hook.ts';
import type { Message } from './message.ts';

/** Of a digest by email so many are written out; the rest is named. */
const WRITTEN_OUT = 30;

/** Several messages in one, where more come than whoever is told takes: each stands in it, oldest first. */
export function digestMessage(messages: readonly Pick<Message, 'subject' | 'text'>[]): Message {
  const subject = `${formatCount(messages.length, 'message')} in one: ${messages[0]?.subject ?? ''}`.slice(0, 200);
  const parts = messages.slice(0, WRITTEN_OUT).map(({ text }) => text.trim());
  const rest = messages.slice(WRITTEN_OUT).map(({ subject: own }) => `· ${own}`);
  const text = [
    `More came at once than is sent in a minute: these ${messages.length} messages stand together.`,
    '',
    ...messages.map(({ subject: own }) => `· ${own}`),
    '',
    ...parts.flatMap((part) => ['─'.repeat(40), part, '']),
    ...(rest.length === 0 ? [] : [`${formatCount(rest.length, 'more')}: named above.`, '']),
  ].join('\n');
  return { subject, text, html: '' };
}
/** The same for a program; each message as it would have been sent by itself. */
export function digestBody(key: string, bodies: readonly HookBody[]): HookBody {
  const last = bodies.at(-1)!; // there is at least one to send together
  const critical = bodies.some(({ severity }) => severity === 'critical');
  return {
    ...last,
    key,
    change: 'digest',
    severity: critical ? 'critical' : 'warning',
    title: formatCount(bodies.length, 'message'),
    place: [],
    rule: '',
    since: bodies[0]!.since,
    value: '',
    limit: '',
    reason: bodies.map(({ title }) => title).join('\n'),
    evidence: '',
    changed: '',
    nextStep: '',
    runbook: '',
    links: [],
    link: '',
    messages: bodies,
  };
}
