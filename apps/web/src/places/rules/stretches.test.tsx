import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { StretchDocument, StretchesAnswer } from '@zetopsis/contract';
import { MINUTE } from '@zetopsis/core/units';
import fc from 'fast-check';
import { afterEach, describe, expect, it } from 'vitest';
import { draftOfStretch, draftOfWindow, stretchOf } from '../../frame/stretchDraft.ts';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { Stretches } from './Stretches.tsx';

afterEach(cleanUp);
const NOW = Date.UTC(2026, 10, 30, 12);
const tide = StretchDocument.parse({
  kind: 'load',
  title: 'spring tide',
  scope: ['seaward', 'tides'],
  from: '2026-11-30T02:00:30.250Z',
  to: '2026-11-30T04:00:00Z',
  note: 'all gauges at once',
});
const answer = (more: object = {}) =>
  StretchesAnswer.parse({
    stretches: [
      { key: 'tide', document: tide, owner: null, mayChange: true },
      {
        key: 'lamp',
        document: { ...tide, kind: 'trouble', title: 'the lamp is out', team: 'quay', to: null },
        owner: 'Quay',
        mayChange: false,
      },
    ],
    at: NOW,
    teams: [{ key: 'tides', name: 'Tides' }],
    ...more,
  });

describe('a draft of a stretch', () => {
  it('of one that is there says it again, to the millisecond', () => {
    const moment = fc.integer({ min: Date.UTC(2020, 0), max: Date.UTC(2030, 0) });
    fc.assert(
      fc.property(moment, fc.option(fc.integer({ min: 1, max: 1e9 })), fc.boolean(), (from, length, ours) => {
        const document = StretchDocument.parse({
          ...tide,
          team: ours ? 'tides' : null,
          from: new Date(from).toISOString(),
          to: length === null ? null : new Date(from + length).toISOString(),
        });
        expect(stretchOf(draftOfStretch(document))).toEqual({ document });
      }),
    );
  });
  it('of a window is of whole minutes, and never empty', () => {
    fc.assert(
      fc.property(fc.integer({ min: NOW, max: NOW + 1e9 }), fc.integer({ min: 0, max: 1e8 }), (from, length) => {
        const read = stretchOf({ ...draftOfWindow({ from, to: from + length }, []), title: 'x' });
        const document = 'document' in read ? read.document : null;
        const times = [Date.parse(document!.from), Date.parse(document!.to!)];
        expect(times.map((at) => at % MINUTE)).toEqual([0, 0]);
        expect(times[1]! - times[0]!).toBeGreaterThanOrEqual(MINUTE);
        expect(Math.abs(times[1]! - times[0]! - length)).toBeLessThanOrEqual(MINUTE);
      }),
    );
  });
});

describe('stretches', () => {
  it('are listed with where and whose, and one is changed: its title, whose it is, its end', async () => {
    const asked = serveAnswers({
      'GET /api/stretches': answer(),
      'PUT /api/stretches/tide': () => ({ status: 204, body: null }),
    });
    drawAt('/rules', <Stretches />);
    const list = await screen.findByRole('region', { name: 'stretches' });
    expect(list.textContent).toContain('and goes on');
    expect(list.textContent).toContain('· Quay');
    expect(within(list).queryByRole('button', { name: /^change the stretch: the lamp/ })).toBeNull();
    fireEvent.click(within(list).getByRole('button', { name: 'change the stretch: spring tide' }));
    const form = within(await screen.findByRole('form', { name: 'change a stretch' }));
    fireEvent.change(form.getByLabelText('Title'), { target: { value: ' ' } });
    fireEvent.click(form.getByRole('button', { name: 'Change it' }));
    expect((await form.findByRole('alert')).textContent).toBe('a stretch has a title');
    fireEvent.change(form.getByLabelText('Title'), { target: { value: 'neap tide' } });
    fireEvent.change(form.getByLabelText('Whose'), { target: { value: 'tides' } });
    fireEvent.click(form.getByRole('button', { name: 'Change it' }));
    await waitFor(() => expect(screen.queryByRole('form')).toBeNull());
    expect(asked.find(({ method }) => method === 'PUT')?.body).toEqual({
      ...tide,
      title: 'neap tide',
      team: 'tides',
    });
  });
  it('say that there are none, and that they could not be read', async () => {
    let status = 500;
    serveAnswers({
      'GET /api/stretches': () =>
        status === 500
          ? { status, body: { code: 'failed', text: 'The server failed.', fields: [] } }
          : { status, body: answer({ stretches: [] }) },
    });
    drawAt('/rules', <Stretches />);
    expect(await screen.findByRole('alert')).toBeTruthy();
    expect(screen.queryByText(/^None:/)).toBeNull();
    status = 200;
    fireEvent.click(screen.getByRole('button', { name: 'try again' }));
    expect(await screen.findByText(/^None: a load/)).toBeTruthy();
  });
});
