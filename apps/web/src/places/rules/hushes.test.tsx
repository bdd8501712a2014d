import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { HushDocument, RulesAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers, sessionAs } from '../../state/testServer.tsx';
import { Hushes } from './Hushes.tsx';
import { emptyHush, hushOf } from './hushDraft.ts';

afterEach(cleanUp);
const NOW = Date.UTC(2026, 10, 30, 12);
const rules = RulesAnswer.parse({
  rules: [],
  teams: [{ key: 'tides', name: 'Tides' }],
  everywhere: true,
  unowned: [],
  history: [],
  deliveries: [],
  mail: { configured: true, text: '' },
});
const document = HushDocument.parse({
  reason: 'the archive is moved',
  applies: { namespaces: ['pier-data'] },
  when: { is: 'weekly', zone: 'UTC', days: ['Mon'], from: '22:00', to: '06:00' },
});
const hush = { key: 'archive', document, owner: null, state: 'quiet now', mayChange: true, kept: [] };

describe('a draft of a hush', () => {
  const draft = { ...emptyHush('Europe/Oslo', ''), reason: 'the archive is moved' };
  it('says from when to when it holds', () => {
    expect(hushOf(draft, NOW)).toMatchObject({
      document: { when: { is: 'once', from: '2026-11-30T12:00:00.000Z', to: '2026-11-30T14:00:00.000Z' } },
    });
    expect(hushOf({ ...draft, kind: 'weekly', namespaces: 'tides, pier-data', rule: 'memory' }, NOW)).toMatchObject({
      document: {
        rules: ['memory'],
        applies: { namespaces: ['tides', 'pier-data'] },
        when: { is: 'weekly', zone: 'Europe/Oslo', from: '22:00', to: '06:00' },
      },
    });
  });
  it('says what is wrong at each field', () => {
    const wrong = (part: object) => {
      const read = hushOf({ ...draft, ...part }, NOW);
      return 'problems' in read ? [...read.problems.keys()] : [];
    };
    expect(wrong({ reason: ' ', lasts: 'long' })).toEqual(['lasts', 'reason']);
    expect(wrong({ kind: 'once', from: '2026-11-30T10:00', to: '2026-11-30T09:00' })).toEqual(['when.to']);
    expect(wrong({ kind: 'once' })).toContain('when.from');
    expect(wrong({ kind: 'weekly', days: [], begins: '25:00', zone: 'Nowhere/City' }).sort()).toEqual([
      'when.days',
      'when.from',
      'when.zone',
    ]);
  });
});

describe('hushes', () => {
  it('are listed with what holds now, planned and taken back', async () => {
    const asked = serveAnswers({
      'GET /api/session': sessionAs('administrator'),
      'GET /api/hushes': { hushes: [hush], at: NOW },
      'POST /api/hushes': () => ({ status: 201, body: { key: 'moved' } }),
      'DELETE /api/hushes/archive': () => ({ status: 204, body: null }),
    });
    drawAt('/rules', <Hushes rules={rules} />);
    const line = (await screen.findByText('the archive is moved')).closest('li')!;
    expect(line.textContent).toContain('quiet now');
    expect(line.textContent).toContain('Mon 22:00 to 06:00, UTC · the platform’s · pier-data');
    fireEvent.click(screen.getByRole('button', { name: 'plan one' }));
    const form = within(screen.getByRole('form', { name: 'plan a hush' }));
    fireEvent.click(form.getByRole('button', { name: 'Plan the hush' }));
    expect((await form.findByRole('alert')).textContent).toBe('a hush has a reason');
    fireEvent.change(form.getByLabelText('Reason'), { target: { value: 'moved' } });
    fireEvent.change(form.getByLabelText('When'), { target: { value: 'maintenance' } });
    fireEvent.click(form.getByRole('button', { name: 'Plan the hush' }));
    await waitFor(() => expect(screen.queryByRole('form')).toBeNull());
    expect(asked.find(({ method }) => method === 'POST')?.body).toMatchObject({
      reason: 'moved',
      when: { is: 'maintenance' },
    });
    fireEvent.click(screen.getByRole('button', { name: /^take back the hush/ }));
    await waitFor(() => expect(asked.some(({ method }) => method === 'DELETE')).toBe(true));
  });
});
