import { expect, it } from 'vitest';
import { AskerLeft } from './askerLeft.ts';
import { HeldWork } from './heldWork.ts';
import { Pieces } from './inPieces.ts';
import { askedBy, Question } from './question.ts';

const HOLDS = { max: 2, holds: 60_000 };

it('is done once for all who ask, and goes on for those who stay', async () => {
  const held = new HeldWork<string, number>('sum', HOLDS);
  let begun = 0;
  let letGo: () => void = () => undefined;
  const gate = new Promise<void>((open) => {
    letGo = open;
  });
  const work = async () => {
    begun++;
    await gate;
    await new Pieces().pause();
    return 7;
  };
  const leaving = new Question('one');
  const first = askedBy(leaving, () => held.get('a', work));
  const second = askedBy(new Question('another'), () => held.get('a', work));
  leaving.leave();
  letGo();
  expect(await second).toBe(7);
  expect(await first).toBe(7);
  expect(await held.get('a', work)).toBe(7);
  expect(begun).toBe(1);
});

it('is done anew where it failed, and where everybody had left', async () => {
  const held = new HeldWork<number, string>('look', HOLDS);
  await expect(held.get(1, () => Promise.reject(new Error('away')))).rejects.toThrow('away');
  expect(await held.get(1, async () => 'there')).toBe('there');
  const only = new Question('only one');
  const left = askedBy(only, () =>
    held.get(2, async () => {
      for (;;) await new Pieces().pause();
    }),
  );
  only.leave();
  expect(await held.get(2, async () => 'again')).toBe('again');
  await expect(left).rejects.toBeInstanceOf(AskerLeft);
  // what ends late does not take away what came after it
  expect(await held.get(2, async () => 'a third')).toBe('again');
});
