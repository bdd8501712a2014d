import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Gaps } from './gaps.ts';

const ENDPOINT = 7;
type Step = 'read' | 'unread' | 'given up' | 'paused';
const steps = fc.array(
  fc.record({
    step: fc.constantFrom<Step>('read', 'read', 'read', 'unread', 'given up', 'paused'),
    away: fc.boolean(),
  }),
  { maxLength: 40 },
);

/** A database that may be away, and what it was asked for. */
function database() {
  const state = { away: false, open: false, asked: 0 };
  const question = (open: boolean) => async () => {
    state.asked++;
    if (state.away) throw new Error('away');
    state.open = open;
  };
  return { state, store: { openGap: question(true), reopenGap: question(true), closeGap: question(false) } };
}

describe('gaps of an endpoint', () => {
  it('are closed by the first reading after them, whatever went before and however often the database was away', async () => {
    await fc.assert(
      fc.asyncProperty(steps, async (all) => {
        const { state, store } = database();
        const gaps = new Gaps(store, () => undefined);
        let at = 1000;
        for (const { step, away } of all) {
          at += 10;
          state.away = away;
          if (step === 'read') {
            const closed = await gaps.close(ENDPOINT, at).then(
              () => true,
              () => false,
            );
            if (closed) expect(state.open).toBe(false);
          } else if (step === 'unread') await gaps.open(ENDPOINT, { from: at, reason: 'no answer' });
          else if (step === 'given up') await gaps.givenUp(ENDPOINT, at, 'full');
          else if (!away) {
            // somebody else opens it
            state.open = true;
            gaps.maybeOpen(ENDPOINT);
          }
        }
      }),
    );
  });
  it('are not asked for again while one reading follows another', async () => {
    const { state, store } = database();
    const gaps = new Gaps(store, () => undefined);
    for (let at = 1; at <= 100; at++) await gaps.close(ENDPOINT, at);
    expect(state.asked).toBe(1);
    await gaps.open(ENDPOINT, { from: 100, reason: 'no answer' });
    await gaps.close(ENDPOINT, 101);
    expect(state).toEqual({ away: false, open: false, asked: 3 });
  });
});
