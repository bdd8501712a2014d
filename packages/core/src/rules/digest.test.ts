import { describe, expect, it } from 'vitest';
import { digestBody, digestMessage } from './digest.ts';
import type { HookBody } from './hook.ts';

const body = (n: number, severity: HookBody['severity'] = 'warning'): HookBody => ({
  version: 1,
  key: `alert-${n}`,
  change: 'raised',
  severity,
  title: `quay ${n} floods`,
  place: ['seaward'],
  rule: 'high water',
  at: `2026-11-30T0${n}:00:00.000Z`,
  since: `2026-11-30T0${n}:00:00.000Z`,
  value: '3 m',
  limit: '2 m',
  reason: 'tide',
  evidence: '',
  changed: '',
  nextStep: '',
  runbook: 'close the gates',
  links: [],
  team: 'Tides',
  link: 'https://x',
});
describe('several messages in one', () => {
  it('names each, and says most of them as they would have been said alone', () => {
    const messages = Array.from({ length: 40 }, (_, n) => ({ subject: `Warning: quay ${n}`, text: `text of ${n}\n` }));
    const { subject, text } = digestMessage(messages);
    expect(subject).toBe('40 messages in one: Warning: quay 0');
    for (const [n, { subject: own }] of messages.entries()) {
      expect(text).toContain(`· ${own}\n`);
      expect(text.includes(`text of ${n}\n`)).toBe(n < 30);
    }
  });
  it('for a program bears the bodies themselves, as grave as the gravest', () => {
    const digest = digestBody('digest-1', [body(1), body(2, 'critical'), body(3)]);
    expect(digest).toMatchObject({
      key: 'digest-1',
      change: 'digest',
      severity: 'critical',
      title: '3 messages',
      since: '2026-11-30T01:00:00.000Z',
      reason: 'quay 1 floods\nquay 2 floods\nquay 3 floods',
      team: 'Tides',
      runbook: '',
    });
    expect(digest.messages).toEqual([body(1), body(2, 'critical'), body(3)]);
  });
});
