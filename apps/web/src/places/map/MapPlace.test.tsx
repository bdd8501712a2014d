import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { MapAnswer, type MapBox, type MapLink, type UsageRow } from '@zetopsis/contract';
import { parseMeasure } from '@zetopsis/core/measures';
import { afterEach, describe, expect, it } from 'vitest';
import { linkWords } from '../../drawing/linkWords.ts';
import { mapAround } from '../../frame/mapView.ts';
import { rowOf } from '../../state/rowFixture.ts';
import { cleanUp, drawAt, serveAnswers, sessionAs } from '../../state/testServer.tsx';
import { MapPlace } from './MapPlace.tsx';
import { BOX, drawnMap, lookedAt } from './mapModel.ts';

afterEach(cleanUp);
const AT = Date.now() - 60_000;
const box = (name: string, namespace = 'quay', more: Partial<MapBox> = {}): MapBox => ({
  key: `seaward/${namespace}/deployment:${name}`,
  kind: 'workload',
  cluster: 'seaward',
  namespace,
  name,
  keeps: 'deployment',
  team: 'Ferries',
  path: ['seaward', namespace, `deployment:${name}`],
  severity: null,
  finding: null,
  besides: null,
  cpu: 0.5,
  memory: null,
  holds: null,
  ...more,
});
const boxes = [
  box('front'),
  box('ledger'),
  box('base', 'pier', { besides: 'Its node pier-2 is lost.' }),
  box('notes', 'pier'),
  box('far', 'mole'),
];
const key = (name: string) => boxes.find((one) => one.name === name)!.key; // one of them
const link = (from: string, to: string, more: Partial<MapLink> = {}): MapLink => ({
  key: `${key(from)} → ${key(to)}`,
  from: key(from),
  to: key(to),
  protocols: ['http'],
  by: 'requests',
  bytes: null,
  connections: null,
  uncertainShare: null,
  state: null,
  blindSince: null,
  now: 1,
  usual: 1,
  against: 'the time before',
  since: null,
  sent: 1,
  received: 1,
  failureShare: 0,
  refusedShare: 0,
  callerP95: 0.02,
  answererP95: 0.01,
  ownShare: 0.5,
  seenShare: 1,
  isNew: false,
  course: [1, 2, null],
  was: null,
  change: null,
  ...more,
});
const failing = link('ledger', 'base', {
  state: 'failing',
  now: 0.4,
  usual: 0.01,
  failureShare: 0.4,
  since: AT - 600_000,
});
const answer: MapAnswer = MapAnswer.parse({
  at: AT,
  comparedAt: null,
  boxes,
  links: [link('front', 'ledger'), failing, link('base', 'notes'), link('notes', 'far')],
  trouble: [
    {
      link: failing.key,
      side: 'answerer',
      evidence: ['all 2 of its callers see it'],
      root: null,
      inside: [],
      people: null,
    },
  ],
  left: 0,
  nothing: null,
});
const VIEW = mapAround('');
const names = (seen: ReadonlySet<string>) => boxes.filter((one) => seen.has(one.key)).map(({ name }) => name);
const serve = (body: unknown = answer) =>
  serveAnswers({ 'GET /api/session': sessionAs('administrator'), 'GET /api/map': body });

describe('what is drawn', () => {
  it('is what is picked and so many links around it, what stands in the scope, or everything', () => {
    expect(names(lookedAt(answer, { link: failing.key, away: 1 }, []))).toEqual(['front', 'ledger', 'base', 'notes']);
    expect(names(lookedAt(answer, { link: key('far'), away: 1 }, []))).toEqual(['notes', 'far']);
    expect(names(lookedAt(answer, { link: key('far'), away: 2 }, []))).toEqual(['base', 'notes', 'far']);
    expect(names(lookedAt(answer, { link: key('far'), away: 0 }, []))).toHaveLength(5);
    expect(names(lookedAt(answer, { link: '', away: 1 }, ['seaward', 'mole']))).toEqual(['notes', 'far']);
  });
  it('puts a folded lane in one box, with its worst link', () => {
    const drawn = drawnMap(answer, { ...VIEW, folded: ['seaward / pier'] }, []);
    const folded = drawn.boxes.find((one) => one.box === null);
    expect(folded).toMatchObject({ name: 'seaward / pier', holds: 2 });
    expect(drawn.links.find(({ to }) => to === folded?.key)?.link.state).toBe('failing');
    expect(drawn.boxes).toHaveLength(4);
    expect(drawn.lanes.map(({ name }) => name).sort()).toEqual(['seaward / mole', 'seaward / pier', 'seaward / quay']);
  });
  it('stands in the same place when nothing changed', () => {
    const again = MapAnswer.parse({ ...answer, links: [...answer.links].reverse(), boxes: [...boxes].reverse() });
    const places = (of: MapAnswer) => new Map(drawnMap(of, VIEW, []).boxes.map((one) => [one.key, [one.x, one.y]]));
    expect([...places(again)].sort()).toEqual([...places(answer)].sort());
  });
  it('says what is the matter in a sentence', () => {
    expect(linkWords(failing)).toBe('40 % failed, before 1.0 %');
    expect(linkWords(link('front', 'ledger', { state: 'silent', usual: 2, against: 'this hour' }))).toBe(
      'nothing comes, usual at this hour 2.00 per s',
    );
  });
});

describe('the place Map', () => {
  it('leads from the trouble to the link, its likely side, and on to who else is there', async () => {
    serve();
    const router = drawAt('/map', <MapPlace />);
    const list = await screen.findByRole('navigation', { name: 'links in trouble' });
    expect(list.textContent).toContain('failing ledger → base40 % failed, before 1.0 %');
    expect(list.textContent).toContain('likely the answerer');
    fireEvent.click(within(list).getByRole('button'));
    const sheet = await screen.findByRole('complementary', { name: 'link' });
    expect(sheet.textContent).toContain('all 2 of its callers see it');
    expect(sheet.textContent).toContain('Found at base: Its node pier-2 is lost.');
    expect(sheet.textContent).toContain('from spans of both ends');
    fireEvent.click(within(within(sheet).getByRole('region', { name: 'what it calls itself' })).getByRole('button'));
    await waitFor(() => expect(router.state.location.search).toContain('notes'));
    fireEvent.keyDown(document.body, { key: 'Escape' });
    await waitFor(() => expect(screen.queryByRole('complementary', { name: 'link' })).toBeNull());
  });
  it('says of whom nothing is told any more, and since when, instead of calling them silent', async () => {
    const blindSince = AT - 20 * 60_000;
    const blind = link('front', 'ledger', { blindSince, sent: null, received: null });
    serve({ ...answer, links: [blind, link('far', 'base')], trouble: [] });
    drawAt('/map', <MapPlace />);
    const list = await screen.findByRole('navigation', { name: 'links in trouble' });
    expect(list.textContent).toMatch(/blind front → ledger: nothing is told by the programs of seaward since \d/);
    fireEvent.click(await screen.findByRole('button', { name: /^front calls ledger: blind/ }));
    const sheet = await screen.findByRole('complementary', { name: 'link' });
    expect(sheet.textContent).toMatch(/Whether it carries anything is not known/);
    expect(within(sheet).getByRole('link', { name: 'Sources' }).getAttribute('href')).toMatch(/^\/sources/);
    fireEvent.click(screen.getByRole('button', { name: 'table' }));
    const table = await screen.findByRole('table', { name: 'table of links' });
    expect(within(table).getAllByRole('row')[1]?.textContent).toContain('frontledgerblindnot told');
    cleanUp();
    // what was the matter with one stays so
    serve({ ...answer, links: [{ ...failing, blindSince }] });
    drawAt('/map', <MapPlace />);
    const trouble = within(await screen.findByRole('navigation', { name: 'links in trouble' })).getByRole('button');
    expect(trouble.textContent).toMatch(/failing ledger → base.*blind since \d.*: so it was last/);
  });
  it('draws how boxes stand, and what links carry, as is chosen', async () => {
    const found = { severity: 'critical' as const, finding: 'front cannot reach it' };
    serve({ ...answer, boxes: boxes.map((one) => (one.name === 'base' ? { ...one, ...found, memory: 0.91 } : one)) });
    const router = drawAt('/map', <MapPlace />);
    const drawing = await screen.findByRole('group', { name: 'drawing of links' });
    expect(
      within(drawing).getByRole('button', {
        name: 'base, deployment of Ferries; CPU at 50 % of its limit; critical: front cannot reach it',
      }),
    ).toBeTruthy();
    fireEvent.change(screen.getByLabelText('boxes show'), { target: { value: 'memory' } });
    expect(await within(drawing).findByRole('button', { name: /^base, .*memory at 91 % of its limit/ })).toBeTruthy();
    expect(within(drawing).getByRole('button', { name: 'front, deployment of Ferries' })).toBeTruthy();
    fireEvent.change(screen.getByLabelText('links show'), { target: { value: '95 of 100 within' } });
    await waitFor(() => expect(within(drawing).getAllByText('20 ms')).toHaveLength(4));
    expect(router.state.location.search).toContain('figures=95');
    fireEvent.keyDown(within(drawing).getByRole('button', { name: /^seaward \/ pier: 2 boxes/ }), { key: 'Enter' });
    expect(
      await within(drawing).findByRole('button', { name: 'seaward / pier, folded: 2; critical: within it' }),
    ).toBeTruthy();
  });
  it('opens a box in place: its pods, the worst first, lead to their sheets', async () => {
    const pod = (name: string, tightness: number, more: Partial<UsageRow> = {}) => ({
      ...rowOf(name, tightness, more),
      path: ['seaward', 'pier', 'deployment:base', name],
      received: null,
      sent: null,
      files: null,
      volumes: null,
      volumeSize: null,
    });
    const way = (to: string, failedShare: number) => ({
      from: 'ledger-1',
      to,
      requests: 9,
      failedShare,
      nearlyAll: 0.02,
    });
    const rows = [
      ...Array.from({ length: 8 }, (_, i) => pod(`base-1-p${i}`, i / 10)),
      pod('base-1-ill', 0.05, { severity: 'critical', finding: 'it keeps restarting' }),
    ];
    serveAnswers({
      'GET /api/session': sessionAs('administrator'),
      'GET /api/map': { ...answer, boxes: boxes.map((one) => (one.name === 'base' ? { ...one, holds: 9 } : one)) },
      'GET /api/usage/table': { window: { from: AT - 60_000, to: AT, live: true }, level: 'pod', rows, left: 0 },
      'GET /api/map/link': {
        ...{ from: AT - 600_000, to: AT, requests: 27, people: null, operations: [], slowest: [], failed: [] },
        ways: [way('base-1-ill', 0.4), way('base-1-p3', 0), way('base-1-p0', 0)],
      },
    });
    const router = drawAt(`/map?link=${encodeURIComponent(failing.key)}`, <MapPlace />);
    const drawing = await screen.findByRole('group', { name: 'drawing of links' });
    fireEvent.keyDown(within(drawing).getByRole('button', { name: '9 pods of base' }), { key: 'Enter' });
    const links = await within(drawing).findAllByRole('link');
    expect(links.map((one) => one.getAttribute('aria-label'))).toEqual([
      'base-1-ill; CPU at 5.0 % of its limit; critical: it keeps restarting',
      ...[7, 6, 5, 4, 3].map((i) => `base-1-p${i}; CPU at ${i * 10} % of its limit`),
    ]);
    expect(within(drawing).getByText('3 more')).toBeTruthy();
    expect(router.state.location.search).toContain('opened=');
    // from pod to pod, each to its row; those without one to the rest
    const ways = await within(drawing).findByRole('group', { name: 'from pod to pod' });
    await waitFor(() => expect(ways.querySelectorAll('title')).toHaveLength(3));
    const titles = [...ways.querySelectorAll('title')].map(({ textContent }) => textContent);
    expect(titles[0]).toBe('ledger-1 calls base-1-ill: 9 requests, 40 % failed, 95 of 100 within 20 ms');
    const ends = [...ways.querySelectorAll('path')].map((one) => Number(one.getAttribute('d')?.split(' ').at(-1)));
    expect(ends.map((y) => (y - ends[0]!) / BOX.row)).toEqual([0, 5, 6]);
    fireEvent.keyDown(links[0]!, { key: 'Enter' }); // the ill one
    await waitFor(() => expect(router.state.location.pathname).toBe('/usage'));
    expect(router.state.location.search).toContain('deployment:base/base-1-ill');
  });
  it('lets a large drawing grow, in strokes where it is quiet; stopped, it goes on when asked; searched for, boxes stand out', async () => {
    const many = Array.from({ length: 450 }, (_, i) => box(`many-${i}`, `quay-${i % 9}`));
    const calls = many
      .slice(1)
      .map((one, i) => ({ ...link('front', 'ledger'), key: `k${i}`, from: many[Math.floor(i / 3)]!.key, to: one.key })); // each has one
    const ill = { ...calls[40]!, state: 'failing', now: 0.4, failureShare: 0.4 };
    serve({ ...answer, boxes: many, links: [ill, ...calls.filter(({ key: own }) => own !== ill.key)], trouble: [] });
    drawAt('/map?away=0', <MapPlace />);
    const drawing = await screen.findByRole('group', { name: 'drawing of links' });
    fireEvent.click(await screen.findByRole('button', { name: 'stop' }));
    const named = (label: string) => drawing.querySelectorAll(`g[role=button][aria-label${label}]`);
    const standing = () => named('^="many-"').length - named('*=" calls "').length;
    const stopped = standing();
    expect(stopped).toBeLessThan(450);
    expect(drawing.querySelectorAll('path[stroke-opacity]').length).toBeLessThanOrEqual(5);
    expect(named('*=" calls "')).toHaveLength(1);
    fireEvent.click(screen.getByRole('button', { name: 'go on' }));
    await waitFor(() => expect(standing()).toBe(450), { timeout: 20_000 });
    fireEvent.click(named('^="many-7, "')[0]!); // it stands
    // its own links come to life: whom it calls, who calls it, and the one in trouble
    await waitFor(() => expect(named('*=" calls "')).toHaveLength(5));
  });
  it('is walked through, folded and searched by keyboard, and has a table that says the same', async () => {
    serve();
    drawAt('/map', <MapPlace />);
    const drawing = await screen.findByRole('group', { name: 'drawing of links' });
    fireEvent.keyDown(within(drawing).getByRole('button', { name: /^seaward \/ pier: 2 boxes/ }), { key: 'Enter' });
    expect(await within(drawing).findByRole('button', { name: 'seaward / pier, folded: 2' })).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'unfold all' }));
    const call = await within(drawing).findByRole('button', {
      name: 'ledger calls base: failing, 40 % failed, before 1.0 %',
    });
    fireEvent.keyDown(call, { key: ' ' });
    expect(await screen.findByRole('complementary', { name: 'link' })).toBeTruthy();
    const find = screen.getByLabelText('find a box');
    fireEvent.change(find, { target: { value: 'far' } });
    fireEvent.keyDown(find, { key: 'Enter' });
    await waitFor(() => expect(within(drawing).queryByRole('button', { name: /^front/ })).toBeNull());
    fireEvent.click(screen.getByRole('button', { name: 'table' }));
    const table = await screen.findByRole('table', { name: 'table of links' });
    expect(within(table).getAllByRole('row')).toHaveLength(2);
  });
  it('tells a link over the window as both sides saw it, and what happened at its ends', async () => {
    const line = (seenBy: string, value: number) => ({
      labels: { seen_by: seenBy },
      points: [
        [AT - 60_000, value],
        [AT, value * 2],
      ],
      name: null,
      unit: 'per second',
    });
    const told = {
      text: 'read link_requests_total\n',
      shownAs: null,
      series: [line('caller', 3), line('answerer', 2)],
      left: 0,
      read: { series: 2, samples: 4, resolution: 'samples' },
      notes: [],
      nothing: null,
      steps: [],
      examples: [],
      took: 1,
    };
    const mark = {
      at: AT - 30_000,
      kind: 'rollout',
      severity: null,
      title: 'base: 1.0 → 1.1',
      path: ['seaward', 'pier', 'deployment:base'],
    };
    const tape = {
      span: { from: AT - 3_600_000, to: AT, live: true },
      grid: { start: AT - 3_600_000, step: 60_000, count: 1 },
      load: [null],
      loadOf: 'CPU',
      marks: [mark],
      stretches: [],
      hushes: [],
      gaps: [],
      newestAt: AT,
    };
    const asked = serveAnswers({
      'GET /api/session': sessionAs('administrator'),
      'GET /api/map': answer,
      'GET /api/usage/tape': tape,
      'POST /api/measures/evaluate': told,
    });
    drawAt(`/map?link=${encodeURIComponent(failing.key)}`, <MapPlace />);
    const over = await screen.findByRole('region', { name: 'over the window' });
    expect(
      await within(over).findByRole('img', {
        name: 'requests: caller 6.00 per s, answerer 4.00 per s at the end; up to 6.00 per s',
      }),
    ).toBeTruthy();
    expect((await screen.findByRole('region', { name: 'what happened at its ends' })).textContent).toContain(
      'base: 1.0 → 1.1',
    );
    expect(within(over).getAllByRole('link', { name: /^tell me when/ })).toHaveLength(3);
    const texts = asked
      .filter(({ path }) => path.includes('evaluate'))
      .map(({ body }) => (body as { text: string }).text);
    expect(texts.length).toBeGreaterThanOrEqual(3);
    for (const text of texts) expect(parseMeasure(text)).not.toHaveProperty('problem');
  });
  it('says what goes over a link by whole traces, and opens one of them', async () => {
    const request = { traceId: 'a'.repeat(32), at: AT - 90_000, operation: 'look up', seconds: 0.4, failed: true };
    const told = {
      from: AT - 600_000,
      to: AT,
      requests: 40,
      people: 0.25,
      operations: [
        { operation: 'look up', requests: 30, failedShare: 0.5, nearlyAll: 0.3 },
        ...Array.from({ length: 9 }, (_, i) => ({ operation: `rare ${i}`, requests: 1, failedShare: 0, nearlyAll: 0 })),
      ],
      ways: [
        { from: 'ledger-1', to: 'base-1-p7', requests: 24, failedShare: 0, nearlyAll: 0.02 },
        { from: 'ledger-1', to: 'base-1-p0', requests: 12, failedShare: 0.5, nearlyAll: 0.3 },
        { from: '', to: 'base-1-p7', requests: 4, failedShare: 0, nearlyAll: 0.02 },
      ],
      slowest: [request],
      failed: [],
    };
    serveAnswers({
      'GET /api/session': sessionAs('administrator'),
      'GET /api/map': { ...answer, trouble: answer.trouble.map((one) => ({ ...one, people: 0.25 })) },
      'GET /api/map/link': told,
      [`GET /api/records/traces/${request.traceId}`]: {
        traceId: request.traceId,
        steps: [],
        hidden: 3,
        left: 0,
        orphans: 0,
        open: false,
      },
    });
    drawAt(`/map?link=${encodeURIComponent(failing.key)}`, <MapPlace />);
    const over = await screen.findByRole('region', { name: 'what goes over it' });
    await waitFor(() => expect(over.textContent).toContain('25 % of what people asked for went over it'));
    expect(screen.getByRole('navigation', { name: 'links in trouble' }).textContent).toContain('25 % of what people');
    expect(within(over).getByRole('row', { name: 'look up 30 50 % 300 ms' })).toBeTruthy();
    const pods = within(over).getByRole('table', { name: 'from pod to pod' });
    expect(
      within(pods)
        .getAllByRole('row')
        .map(({ textContent }) => textContent),
    ).toEqual(['…-1 → …-p01250 %300 ms', '…-1 → …-p724none20 ms', 'not told → …-p74none20 ms']);
    expect(within(over).getAllByRole('row')).toHaveLength(9 + 3);
    fireEvent.click(within(over).getByRole('button', { name: 'all 10' }));
    expect(within(over).getAllByRole('row')).toHaveLength(11 + 3);
    expect(over.textContent).toContain('traces of the 10 minutes before');
    fireEvent.click(within(over).getByRole('button', { name: /^look up failed/ }));
    await waitFor(() => expect(over.textContent).toContain('3 steps elsewhere, which you may not see'));
  });
  it('shows any measure that is kept on its boxes and links, and says why one shows nothing', async () => {
    const measure = (key: string, title: string) => ({
      key,
      title,
      note: '',
      team: null,
      owner: null,
      text: `read ${key}\n`,
      unit: null,
      problem: null,
      readBy: [],
      mayChange: false,
    });
    const series = [
      {
        labels: { cluster: 'seaward', k8s_namespace_name: 'pier', workload: 'base', kind: 'deployment' },
        name: null,
        unit: 'bytes',
        points: [[AT, 3 * 1024 ** 3]],
      },
    ];
    serveAnswers({
      'GET /api/session': sessionAs('administrator'),
      'GET /api/map': answer,
      'GET /api/measures/saved': { measures: [measure('held', 'memory held')], teams: [], everybody: true },
      'POST /api/measures/evaluate': {
        text: '',
        shownAs: null,
        series,
        left: 0,
        read: { series: 1, samples: 1, resolution: 'samples' },
        notes: [],
        nothing: null,
        steps: [],
        examples: [],
        took: 1,
      },
    });
    const router = drawAt('/map', <MapPlace />);
    const drawing = await screen.findByRole('group', { name: 'drawing of links' });
    const option = within(screen.getByLabelText('boxes show')).findByRole('option', { name: 'memory held' });
    expect(await option).toBeTruthy();
    fireEvent.change(screen.getByLabelText('boxes show'), { target: { value: 'measure:held' } });
    expect(await within(drawing).findByRole('button', { name: 'base, deployment of Ferries; 3.00 GiB' })).toBeTruthy();
    expect(router.state.location.search).toContain('boxes=measure:held');
    fireEvent.change(screen.getByLabelText('links show'), { target: { value: 'measure:held' } });
    expect((await screen.findByRole('status')).textContent).toContain('memory held: It has no value at a link');
  });
  it('beside another window says what is new, gone and otherwise, in the list, the drawing and the table', async () => {
    const links = [
      { ...link('front', 'ledger'), change: 'more', sent: 4, was: { rate: 1, failureShare: 0, p95: 0.02 } },
      { ...link('base', 'notes'), change: 'gone', sent: 0, was: { rate: 2, failureShare: 0, p95: 0.02 } },
      { ...link('notes', 'far'), change: 'new', was: null },
    ];
    serve({ ...answer, links, trouble: [], comparedAt: AT - 3_600_000 });
    const router = drawAt('/map?against=1h', <MapPlace />);
    const changed = await screen.findByRole('region', { name: 'changed' });
    expect(
      within(changed)
        .getAllByRole('button')
        .map(({ textContent }) => textContent),
    ).toEqual([
      'new notes → far1.00 per s, nothing then',
      'gone base → notesnothing, 2.00 per s then',
      'more front → ledger4.00 per s, 1.00 per s then',
    ]);
    expect(screen.getByRole('button', { name: /base calls notes: .*; gone: nothing, 2.00 per s then/ })).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'table' }));
    expect((await screen.findByRole('table', { name: 'table of links' })).textContent).toContain('not therenew');
    fireEvent.click(screen.getByRole('button', { name: 'compare no more' }));
    await waitFor(() => expect(router.state.location.search).not.toContain('against'));
  });
  it('says why there is nothing, and what others’ are', async () => {
    serve({ ...answer, boxes: [], links: [], trouble: [], nothing: 'No program tells whom it calls.' });
    drawAt('/map', <MapPlace />);
    expect(await screen.findByText('No program tells whom it calls.')).toBeTruthy();
    cleanUp();
    const notYours = {
      ...box('not yours'),
      key: '//not yours',
      kind: 'notYours',
      cluster: '',
      namespace: '',
      path: null,
      team: null,
    };
    const hidden = { ...link('front', 'ledger'), to: '//not yours', key: 'x' };
    serve({ ...answer, boxes: [boxes[0], notYours], links: [hidden], trouble: [] });
    drawAt('/map?link=x', <MapPlace />);
    const sheet = await screen.findByRole('complementary', { name: 'link' });
    expect(within(sheet).queryByRole('link', { name: 'show its measure' })).toBeNull();
    expect(screen.getByText('None: what is told goes as usual.')).toBeTruthy();
  });
});
