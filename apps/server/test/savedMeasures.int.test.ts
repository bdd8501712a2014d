import { MeasureVersionsAnswer, SavedMeasuresAnswer } from '@zetopsis/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { people, type Served, serve, type Visitor, withToken } from './harness.ts';

/** Measures that are kept, without any cluster: what they read need not be there. */
describe('saved measures', () => {
  let served: Served;
  let all: Awaited<ReturnType<typeof people>>;
  let administrator: Visitor;
  beforeAll(async () => {
    served = await serve();
    all = await people(served);
    ({ administrator } = all);
  });
  afterAll(async () => {
    await served?.close();
  });
  const list = async (who: Visitor) => SavedMeasuresAnswer.parse(await who.get('measures/saved'));
  const document = (title: string, more: object = {}) => ({ title, text: 'read vital container.cpu.time\n', ...more });
  const keep = (who: Visitor, title: string, more: object = {}) =>
    who.ask('POST', 'measures/saved', document(title, more));

  it('are kept as they are printed, seen by everybody or by a team, and changed by who owns them', async () => {
    const { body } = await keep(administrator, 'Cores of everything', {
      text: 'read vital container.cpu.time per second over 5m total overall',
      note: 'Everything.',
    });
    expect(body.key).toBe('cores-of-everything');
    const own = await keep(all.developer, 'Ours alone', { team: 'ferries' });
    expect(own.status).toBe(201);
    const [first] = (await list(all.nobody)).measures;
    expect(first).toMatchObject({
      title: 'Cores of everything',
      text: 'read vital container.cpu.time\n  per second over 5m\n  total overall\n',
      unit: 'cores',
      mayChange: false,
    });
    expect((await list(all.nobody)).measures).toHaveLength(1);
    expect((await list(all.developer)).measures.map(({ title, mayChange }) => [title, mayChange])).toEqual([
      ['Cores of everything', false],
      ['Ours alone', true],
    ]);
    // what one may not see is as if it were not there
    for (const [method, path, body] of [
      ['PUT', 'measures/saved/ours-alone', document('Taken')],
      ['DELETE', 'measures/saved/ours-alone', undefined],
      ['GET', 'measures/saved/ours-alone/versions', undefined],
    ] as const)
      expect([path, (await all.nobody.ask(method, path, body)).status]).toEqual([path, 404]);
    expect((await all.developer.ask('PUT', 'measures/saved/cores-of-everything', document('Mine'))).status).toBe(403);
    expect((await keep(all.nobody, 'For nobody')).status).toBe(403);
    expect((await keep(all.nobody, 'For others', { team: 'ferries' })).status).toBe(403);
  });

  it('are read by others; circles, two of one title and what is not there are refused, with nothing lost', async () => {
    const reads = (title: string) => ({ text: `read measure "${title}"\n` });
    expect((await keep(administrator, 'Base')).status).toBe(201);
    expect((await keep(administrator, 'Above', reads('Base'))).status).toBe(201);
    const circle = await administrator.ask('PUT', 'measures/saved/base', document('Base', reads('Above')));
    expect([circle.status, circle.body.text]).toEqual([409, expect.stringContaining('cannot read itself')]);
    expect((await keep(administrator, 'Base')).body.text).toContain('a title is one measure’s');
    expect((await keep(administrator, 'Lost', reads('Nowhere'))).body.text).toContain('which is not there');
    expect((await administrator.ask('DELETE', 'measures/saved/base')).body.text).toContain('“Above” reads the measure');
    const base = (await list(administrator)).measures.find(({ title }) => title === 'Base');
    expect(base).toMatchObject({ readBy: ['Above'], text: 'read vital container.cpu.time\n' });
    const told = await administrator.ask('POST', 'measures/evaluate', {
      text: 'read measure "Above" per second over 5m',
      at: Date.now(),
    });
    expect([told.status, told.body.nothing]).toEqual([200, expect.stringContaining('No series fits')]);
    const hidden = await all.nobody.ask('POST', 'measures/evaluate', {
      text: 'read measure "Ours alone"',
      at: Date.now(),
    });
    expect([hidden.status, hidden.body.text]).toEqual([400, expect.stringContaining('no measure “Ours alone”')]);
  });

  it('say what is wrong with a text, where it is', async () => {
    const { status, body } = await keep(administrator, 'Wrong', {
      text: 'read vital container.cpu.time\n  avrage over 5m',
    });
    expect([status, body.fields[0].path, body.fields[0].text]).toEqual([
      400,
      'text',
      expect.stringMatching(/^line 2, column 3: .*“average” is the nearest/),
    ]);
    expect((await keep(administrator, 'Say "it"')).status).toBe(400);
  });

  it('have versions that differ, and come back by an undo of the configuration', async () => {
    const { body } = await keep(administrator, 'Changing');
    await administrator.ask(
      'PUT',
      `measures/saved/${body.key}`,
      document('Changing', { text: 'read vital node.cpu.time' }),
    );
    const { versions } = MeasureVersionsAnswer.parse(await administrator.get(`measures/saved/${body.key}/versions`));
    expect(versions.map(({ was }) => was)).toEqual(['changed', 'added']);
    expect(versions[0]!.lines).toContainEqual({ is: 'added', text: 'read vital node.cpu.time' });
    expect(versions[0]!.lines).toContainEqual({ is: 'removed', text: 'read vital container.cpu.time' });
    const file = await administrator.ask('GET', 'admin/configuration?as=json');
    expect(JSON.stringify(file.body)).toContain('Changing');
    const undone = await administrator.ask('POST', `admin/revisions/${versions[0]!.revision}`, {
      act: 'undo',
      tryOnly: false,
    });
    expect(undone.status).toBeLessThan(300);
    const now = (await list(administrator)).measures.find(({ title }) => title === 'Changing');
    expect(now?.text).toBe('read vital container.cpu.time\n');
  });

  it('are read by a token, and never changed by one', async () => {
    const token = await withToken(served, all.developer, { level: 'administer' });
    expect((await list(token)).measures.some(({ title }) => title === 'Ours alone')).toBe(true);
    expect((await keep(token, 'By a token', { team: 'ferries' })).status).toBe(403);
  });
});
