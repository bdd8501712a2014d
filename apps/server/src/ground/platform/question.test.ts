import { setTimeout as pause, setImmediate } from 'node:timers/promises';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { AskerLeft } from './askerLeft.ts';
import { inPieces, Pieces, turn } from './inPieces.ts';
import { askedBy, LONGEST_WORK, Question, questionNow, SharedWork } from './question.ts';
import { Turns } from './turns.ts';

/** Items without end, each of which takes a while. */
function* endless(ms: number) {
  for (let i = 0; ; i++) {
    const until = performance.now() + ms;
    while (performance.now() < until);
    yield i;
  }
}

describe('a question', () => {
  it('ends between two pieces once who asked has left, and nothing of it is worked on any more', async () => {
    const question = new Question('a test');
    let done = 0;
    const work = askedBy(question, () => inPieces(endless(1), () => void done++));
    await pause(40);
    question.leave();
    await expect(work).rejects.toBeInstanceOf(AskerLeft);
    const then = done;
    await pause(40);
    expect(done).toBe(then);
  });
  it('lets others in between its pieces', async () => {
    const question = new Question('a test');
    let others = 0;
    const work = askedBy(question, () => inPieces(endless(1), () => undefined));
    work.catch(() => undefined);
    while (others < 5) {
      await setImmediate();
      others++;
    }
    question.leave();
    await expect(work).rejects.toBeInstanceOf(AskerLeft);
  });
  it('lets others in: of many that wait for their turn, as pages do that are read at once, one goes on at each', async () => {
    let wentOn = 0;
    void Promise.all(Array.from({ length: 8 }, () => turn().then(() => wentOn++)));
    let most = 0;
    for (let before = wentOn; wentOn < 8; before = wentOn) {
      await setImmediate();
      most = Math.max(most, wentOn - before);
    }
    expect(most).toBe(1);
  });
  it('is one of many, each of which does a piece in its turn: they are no longer a stop together than one alone', async () => {
    const done: number[] = [];
    let ended = false;
    const works = Array.from({ length: 8 }, (_, id) =>
      inPieces(Array(5).keys(), () => void done.push(id), new Pieces(0)),
    );
    void Promise.all(works).then(() => {
      ended = true;
    });
    let most = 0;
    for (let before = done.length; !ended; before = done.length) {
      await setImmediate();
      most = Math.max(most, done.length - before);
    }
    expect(most).toBe(1);
    // nobody twice before everybody once
    for (let round = 0; round < 5; round++) expect(new Set(done.slice(round * 8, round * 8 + 8)).size).toBe(8);
  });
  it('is refused once it took more of everybody’s time than one may, and says how to ask for less', () => {
    const question = new Question('a test');
    for (let worked = 0; worked < LONGEST_WORK; worked += 1000) question.check(1000);
    expect(() => question.check(1)).toThrow(/Choose a shorter window or a narrower scope/);
  });
  it('is known to whatever is done for it, and to nothing else', async () => {
    const question = new Question('a test');
    const seen = askedBy(question, async () => {
      await pause(1);
      return questionNow();
    });
    expect(questionNow()).toBeNull();
    expect(await seen).toBe(question);
  });
});

describe('work that several wait for', () => {
  it('goes on while anybody waits, and ends when nobody does', async () => {
    const [one, two] = [new Question('one'), new Question('two')];
    const shared = new SharedWork('both', () => inPieces(endless(1), () => undefined));
    const waits = [one, two].map((question) => askedBy(question, () => shared.wait()));
    const ends = waits.map((wait) => wait.catch((error: unknown) => error));
    one.leave();
    await pause(30);
    expect(shared.abandoned).toBe(false);
    two.leave();
    expect(shared.abandoned).toBe(true);
    for (const end of await Promise.all(ends)) expect(end).toBeInstanceOf(AskerLeft);
  });
  it('is never left by what asks without a question of its own, such as a rule', async () => {
    const asker = new Question('one');
    const shared = new SharedWork('both', async () => {
      await pause(30);
      questionNow()?.check();
      return 'done';
    });
    const rule = shared.wait();
    const wait = askedBy(asker, () => shared.wait());
    asker.leave();
    expect(await rule).toBe('done');
    expect(await wait).toBe('done');
  });
  it('goes on for those who come later, though who asked for it has an answer and has left', async () => {
    const asker = new Question('one');
    const shared = new SharedWork('later', async () => {
      await pause(20);
      questionNow()?.check();
      return 'done';
    });
    askedBy(asker, () => shared.goOn());
    asker.leave();
    expect(await shared.wait()).toBe('done');
  });
  it('is there for who comes once it is done, whoever left meanwhile', async () => {
    const shared = new SharedWork('once', async () => 'done');
    await shared.wait();
    const late = new Question('late');
    await askedBy(late, () => shared.wait());
    const left = new Question('left');
    const wait = askedBy(left, () => shared.wait());
    left.leave();
    expect(await wait).toBe('done');
    expect(shared.abandoned).toBe(false);
  });
});

describe('turns', () => {
  const limits = { perPerson: 2, inAll: 3, waiting: 3 };
  /** Lets the queue move on. */
  const settle = () => pause(1);
  const asking = (turns: Turns) => {
    const begun: string[] = [];
    const ends = new Map<string, () => void>();
    const left: string[] = [];
    const ask = (person: string, name: string, question = new Question(name)) =>
      turns.take(person, question).then(
        (end) => {
          begun.push(name);
          ends.set(name, end);
        },
        (error) => {
          if (!(error instanceof AskerLeft)) throw error;
          left.push(name);
        },
      );
    return { begun, ends, left, ask };
  };
  it('are taken by few of one person at once, and by few in all, one person after the other', async () => {
    const { begun, ends, ask } = asking(new Turns(limits));
    for (const name of ['a1', 'a2', 'a3', 'a4']) void ask('a', name);
    void ask('b', 'b1');
    void ask('c', 'c1');
    await settle();
    expect(begun).toEqual(['a1', 'a2', 'b1']);
    ends.get('a1')!();
    await settle();
    // a has one running, but c came before its third was put behind
    expect(begun).toHaveLength(4);
    ends.get('b1')!();
    await settle();
    expect(new Set(begun)).toEqual(new Set(['a1', 'a2', 'b1', 'a3', 'c1']));
  });
  it('are refused to who has too many waiting, and to nobody else', async () => {
    const { begun, ask } = asking(new Turns(limits));
    for (const name of ['a1', 'a2', 'a3', 'a4', 'a5']) void ask('a', name);
    await expect(ask('a', 'a6')).rejects.toThrow(/3 questions of yours wait/);
    void ask('b', 'b1');
    await settle();
    expect(begun).toContain('b1');
  });
  it('are not kept for who left while waiting', async () => {
    const { begun, ends, left, ask } = asking(new Turns({ ...limits, perPerson: 1 }));
    const gone = new Question('gone');
    void ask('a', 'a1');
    void ask('a', 'a2', gone);
    void ask('a', 'a3');
    await settle();
    gone.leave();
    ends.get('a1')!();
    ends.get('a1')!(); // told twice, counted once
    await settle();
    expect(begun).toEqual(['a1', 'a3']);
    expect(left).toEqual(['a2']);
    // nor begun for who left before
    await ask('b', 'b1', gone);
    expect(left).toEqual(['a2', 'b1']);
  });
  it('come to everybody who stays, whoever leaves meanwhile, waiting or answered', async () => {
    const Doing = fc.record({
      who: fc.constantFrom('a', 'b'),
      does: fc.constantFrom('ask', 'leave', 'end'),
      which: fc.nat(),
    });
    await fc.assert(
      fc.asyncProperty(fc.array(Doing, { maxLength: 30 }), async (doings) => {
        const { begun, ends, ask } = asking(new Turns({ perPerson: 1, inAll: 2, waiting: 40 }));
        const questions = new Map<string, Question>();
        for (const { who, does, which } of doings) {
          const own = [...questions.keys()].filter((name) => name.startsWith(who));
          const chosen = own[which % Math.max(1, own.length)];
          if (does === 'ask') {
            const name = `${who}${questions.size}`;
            questions.set(name, new Question(name));
            void ask(who, name, questions.get(name));
          } else if (chosen !== undefined && does === 'leave') questions.get(chosen)!.leave();
          else if (chosen !== undefined) ends.get(chosen)?.();
          await Promise.resolve();
        }
        // everything that began ends, until nothing begins any more
        for (let i = 0; i <= questions.size; i++) {
          await settle();
          for (const end of ends.values()) end();
        }
        const stayed = [...questions].filter(([, question]) => !question.left).map(([name]) => name);
        expect(begun).toEqual(expect.arrayContaining(stayed));
      }),
      { numRuns: 150 },
    );
  });
});
