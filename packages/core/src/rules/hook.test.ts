import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { filledTemplate, HOOK_FIELDS, type HookBody, hookBody, type MessageFacts, templateProblem } from './index.ts';

const FACTS: MessageFacts = {
  change: 'worse',
  severity: 'critical',
  title: 'tide-model uses 97 % of its memory limit',
  place: ['seaward', 'tides'],
  rule: 'memory',
  at: Date.UTC(2026, 10, 30, 12),
  since: Date.UTC(2026, 10, 30, 11),
  value: '1.9 GiB',
  limit: '2 GiB',
  share: 0.97,
  by: null,
  reason: 'It climbs.',
  evidence: '',
  changed: null,
  nextStep: 'Look.',
  runbook: '',
  links: [{ name: 'map', address: 'https://charts.example/tides' }],
  team: 'Tides',
  link: 'http://zetopsis.test/usage',
  zone: 'UTC',
};

describe('what a program receives', () => {
  const body = hookBody('alert-1-worse-hook-x', FACTS);
  it('says everything that a mail says, with a version and times that can be read', () => {
    expect(body).toMatchObject({
      version: 1,
      change: 'worse',
      at: '2026-11-30T12:00:00.000Z',
      value: '1.9 GiB',
      changed: '',
    });
    expect(hookBody('k', { ...FACTS, by: { value: '0.5 GiB', share: 0.2 } }).value).toBe('0.5 GiB');
  });
  it('by a template stands in its texts', () => {
    const template = '{"text": "{severity}: {title} ({place})", "blocks": [{"at": "{at}", "n": 3, "keep": "{ }"}]}';
    expect(templateProblem(template)).toBeNull();
    expect(JSON.parse(filledTemplate(template, body))).toEqual({
      text: 'critical: tide-model uses 97 % of its memory limit (seaward › tides)',
      blocks: [{ at: '2026-11-30T12:00:00.000Z', n: 3, keep: '{ }' }],
    });
  });
  it('what is wrong with a template is said', () => {
    expect(templateProblem('{"text": ')).toBe('this is no JSON');
    expect(templateProblem('"text"')).toBe('a template is an object or a list');
    expect(templateProblem('{"text": "{titel}"}')).toMatch(/^there is no field \{titel\}; there are key, change/);
  });
  it('whatever an alert says changes nothing about the form', () => {
    const template = JSON.stringify({ all: HOOK_FIELDS.map((field) => `{${field}}`), title: 'x' });
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), fc.string({ unit: 'binary' }), (title, reason) => {
        const hostile: HookBody = { ...body, title, reason };
        const read = JSON.parse(filledTemplate(template, hostile));
        expect(Object.keys(read)).toEqual(['all', 'title']);
        expect(read.all[HOOK_FIELDS.indexOf('title')]).toBe(title);
        expect(read.all[HOOK_FIELDS.indexOf('reason')]).toBe(reason);
      }),
    );
  });
});
