import type { Severity } from '../findings/index.ts';
import { formatClock, formatDuration } from '../format/index.ts';
import type { EpochMs } from '../units/index.ts';

/** Everything a message says (design/rules.md, "Telling"). Amounts are ready-made texts with their units. */
export interface MessageFacts {
  /** `passed`: raised and over again before anybody could be told. */
  readonly change: 'raised' | 'worse' | 'cleared' | 'ended' | 'passed';
  readonly severity: Severity;
  readonly title: string;
  readonly place: readonly string[];
  readonly rule: string;
  readonly at: EpochMs;
  readonly since: EpochMs;
  readonly value: string;
  readonly limit: string;
  /** Value ÷ limit, for the drawn strip. */
  readonly share: number;
  /** Of what is clear again: how it stands by now; null where it is not there any more. */
  readonly by: { readonly value: string; readonly share: number } | null;
  readonly reason: string;
  readonly evidence: string;
  readonly changed: string | null;
  readonly nextStep: string;
  /** What the rule says is to be done. */
  readonly runbook: string;
  /** Beside the runbook. */
  readonly links: readonly { readonly name: string; readonly address: string }[];
  readonly team: string;
  readonly link: string;
  readonly zone: string;
}

export interface Message {
  readonly subject: string;
  readonly text: string;
  readonly html: string;
}

const STRIP_CELLS = 32;

/** The headroom strip as text: full length is the limit, the end stop is drawn, and what is over breaks out of it. */
export function textStrip(share: number): string {
  const cells = Math.max(0, Math.min(STRIP_CELLS, Math.floor(share * STRIP_CELLS)));
  return `├${'█'.repeat(cells)}${'─'.repeat(STRIP_CELLS - cells)}┤${share > 1 ? '▶' : ''}`;
}

const escapeHtml = (text: string) =>
  text.replace(
    /[&<>"']/g,
    (mark) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' })[mark] ?? mark,
  );

/** Header lines must hold no line break, whatever a pod is called. */
const oneLine = (text: string) => text.replace(/\s+/g, ' ').trim();

function headline(facts: MessageFacts): string {
  switch (facts.change) {
    case 'raised':
      return `${facts.severity === 'critical' ? 'Critical' : 'Warning'}: ${facts.title}`;
    case 'worse':
      return `Critical now: ${facts.title}`;
    case 'passed':
      return `Was raised and is over: ${facts.title}`;
    case 'cleared':
      return `Clear again: ${facts.title}`;
    case 'ended':
      return `Ended: ${facts.title}`;
  }
}

export function composeMessage(facts: MessageFacts): Message {
  const place = facts.place.join(' › ');
  const clock = (at: EpochMs) => formatClock(at, facts.at, { zone: facts.zone });
  const since = `${clock(facts.since)} ${facts.zone} (${formatDuration(facts.at - facts.since)})`;
  const stands = facts.change === 'raised' || facts.change === 'worse';
  const rows: [string, string][] = [
    ['Where', place],
    [stands ? 'Since' : 'It lasted since', since],
    ...(facts.by === null
      ? [[stands ? 'Value' : 'Value then', facts.value] as [string, string]]
      : [['Value now', facts.by.value] as [string, string], ['Value then', facts.value] as [string, string]]),
    ['Limit', facts.limit],
    [stands ? 'Why' : 'It was', facts.reason],
    ['Evidence', facts.evidence],
    ...(facts.changed === null ? [] : [['Changed just before', facts.changed] as [string, string]]),
    ...(stands
      ? [['What to try', facts.nextStep] as [string, string], ['Runbook', facts.runbook] as [string, string]]
      : []),
    ['Rule', facts.rule],
    ['Whose', facts.team],
    ...facts.links.map(({ name, address }): [string, string] => [oneLine(name), address]),
  ];
  const width = Math.max(...rows.map(([name]) => name.length));
  const strip = textStrip((facts.by ?? facts).share);
  const text = [
    headline(facts),
    '',
    strip,
    '',
    ...rows.filter(([, value]) => value !== '').map(([name, value]) => `${name.padEnd(width)}  ${value}`),
    '',
    `See it at that moment: ${facts.link}`,
    '',
  ].join('\n');
  return { subject: oneLine(headline(facts)).slice(0, 200), text, html: messageHtml(facts, rows, strip) };
}

/** Colours here repeat the day tokens of the web app's styles: mail readers know no style sheets of ours. */
const INK = '#10242B';
const SOFT = '#52666B';
const LINE = '#C8D2D1';
const FILM = '#ECF0EF';
const SHEET = '#FAFCFB';
const SEVERITY_COLOUR = { critical: '#B0133B', warning: '#94590A' } as const;

const linkHtml = (address: string): string =>
  `<a href="${escapeHtml(address)}" style="color:#0B6370">${escapeHtml(address)}</a>`;
function messageHtml(facts: MessageFacts, rows: readonly [string, string][], strip: string): string {
  const mark =
    facts.change === 'raised' || facts.change === 'worse'
      ? `<span style="color:${SEVERITY_COLOUR[facts.severity]}">${facts.severity === 'critical' ? '◆' : '⬖'}</span> `
      : '';
  const cells = rows
    .filter(([, value]) => value !== '')
    .map(
      ([name, value]) =>
        `<tr><td style="padding:5px 14px 5px 0;color:${SOFT};vertical-align:top;white-space:nowrap;border-top:1px solid ${LINE}">${escapeHtml(name)}</td>` +
        `<td style="padding:5px 0;border-top:1px solid ${LINE}">${facts.links.some(({ address }) => address === value) ? linkHtml(value) : escapeHtml(value)}</td></tr>`,
    )
    .join('');
  return (
    `<!doctype html><html lang="en"><body style="margin:0;padding:20px;background:${FILM};color:${INK};font:15px/1.45 'Atkinson Hyperlegible Next','Segoe UI',sans-serif">` +
    `<div style="max-width:640px;background:${SHEET};border:1px solid ${LINE};padding:18px 22px">` +
    `<h1 style="font-size:19px;margin:0 0 2px">${mark}${escapeHtml(headline(facts))}</h1>` +
    `<p style="margin:0 0 12px;color:${SOFT}">${escapeHtml(facts.place.join(' › '))}</p>` +
    `<pre style="margin:0 0 12px;font:13px/1.2 monospace;overflow:hidden">${escapeHtml(strip)}</pre>` +
    `<table style="border-collapse:collapse;width:100%;font-size:14px">${cells}</table>` +
    `<p style="margin:16px 0 0"><a href="${escapeHtml(facts.link)}" style="color:#0B6370">See it at that moment</a></p>` +
    `</div></body></html>`
  );
}
