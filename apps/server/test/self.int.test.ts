import type { LinesAnswer, MeasureAnswer, MetricNamesAnswer } from '@zetopsis/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ServerLog } from '../src/ground/platform/logger.ts';
import { SelfService } from '../src/running/self/self.service.ts';
import { newDatabase, people, type Served, serve, temporaryFolder, until, type Visitor } from './harness.ts';

let served: Served;
let administrator: Visitor;
let developer: Visitor;
let databaseUrl: string;
const dataDir = temporaryFolder();
const start = async () => {
  served = await serve({ ZETOPSIS_DATA_DIR: dataDir, ZETOPSIS_LOG_LEVEL: 'fatal' }, databaseUrl);
  ({ administrator, developer } = await people(served));
};
beforeAll(async () => {
  databaseUrl = await newDatabase();
  await start();
});
afterAll(async () => {
  await served?.close();
});
const page = async () => (await served.app.get(SelfService, { strict: false }).page()).split('\n');
const lines = async (who = administrator): Promise<LinesAnswer> =>
  who.get(`records/lines?in=host:zetopsis&from=${Date.now() - 3_600_000}`);

describe('Zetopsis itself', () => {
  it('tells each of its figures on its page, with history as measures', async () => {
    await administrator.get(`now?in=&from=${Date.now() - 60_000}`);
    const told = await page();
    const has = (beginning: string) =>
      expect(
        told.filter((line) => line.startsWith(beginning)),
        beginning,
      ).not.toEqual([]);
    for (const name of [
      'request_duration_seconds_bucket{method="GET",route="/api/now",le="0.05"}',
      'database_connections{state="busy"}',
      'database_bytes',
      'database_answer_seconds',
      'questions{state="waiting"}',
      'memory_heap_bytes',
      'event_loop_delay_seconds',
      'judging_behind_seconds',
      'lines_held_bytes',
      'followed_containers{state="read"}',
      'own_lines_lost_total',
    ])
      has(`zetopsis_${name}`);
    expect(told.at(-2)).toBe('# EOF');
    const names = async (): Promise<MetricNamesAnswer> => administrator.get('measures/metrics?find=zetopsis_');
    const metric = await until('its history', async () =>
      (await names()).metrics.find(({ name }) => name === 'zetopsis_database_bytes'),
    );
    const { body } = await administrator.ask('POST', 'measures/evaluate', {
      text: metric.text,
      in: [],
      from: Date.now() - 600_000,
      to: Date.now(),
    });
    expect((body as MeasureAnswer).nothing).toBeNull();
    expect(((await developer.get('measures/metrics?find=zetopsis_')) as MetricNamesAnswer).metrics).toEqual([]);
  });
  it('keeps what it writes among all log lines, masked, for who may read everything, over its end', async () => {
    const log = served.app.get(ServerLog, { strict: false });
    log.note('quayPaid', 'paid with 4539 1488 0343 6467', { token: 'never-told' });
    log.failure('quayFloods', new Error('the quay floods'));
    await until('both', async () => (await lines()).lines.length >= 2);
    log.note('lastWord', 'said at the end');
    await served.app.close();
    await start();
    const kept = (await lines()).lines;
    expect(kept.find(({ text }) => text === 'paid with ‹card›')).toMatchObject({ level: 'info', pod: null });
    expect(kept.find(({ text }) => text === 'the quay floods')).toMatchObject({ level: 'error' });
    expect(kept.filter(({ text }) => text === 'said at the end')).toHaveLength(1);
    expect(JSON.stringify(kept)).not.toContain('never-told');
    expect((await developer.ask('GET', `records/lines?in=host:zetopsis&from=${Date.now() - 60_000}`)).status).toBe(404);
  });
});
