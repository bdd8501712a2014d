import { describe, expect, it } from 'vitest';
import { blockLines, journalParts } from '../src/keeping/records/lineBlocks.ts';
import { journalSpans, spansIn } from '../src/keeping/records/traceBlocks.ts';
import { until } from './harness.ts';
import { Killable } from './killable.ts';

describe('kill -9', () => {
  const product = new Killable(1);

  it('of the server and of PostgreSQL, six times and twice, while log lines and spans are pushed: nothing that was taken is lost or doubled', async () => {
    const KILLS = 6;
    const visitor = await product.visitor();
    const { body: key } = await visitor.ask('PUT', 'push-keys/storm', {});
    const authorization = `Bearer ${key.made.token}`;
    const taken = { logs: new Set<string>(), traces: new Set<string>() };
    const hex = (n: number, length: number) => n.toString(16).padStart(length, '0');
    let next = 1;
    let ended = false;
    /** As senders do: what is not answered is sent again until it is. */
    const send = async (signal: 'logs' | 'traces') => {
      while (!ended) {
        const ids = Array.from({ length: 25 }, () => next++);
        const now = Date.now();
        const resource = { attributes: [{ key: 'service.name', value: { stringValue: `storm-${ids[0]! % 3}` } }] };
        const request =
          signal === 'logs'
            ? {
                resourceLogs: [
                  {
                    resource,
                    scopeLogs: [
                      {
                        logRecords: ids.map((id) => ({
                          timeUnixNano: `${now}000000`,
                          body: { stringValue: `wave ${id} broke` },
                        })),
                      },
                    ],
                  },
                ],
              }
            : {
                resourceSpans: [
                  {
                    resource,
                    scopeSpans: [
                      {
                        spans: ids.map((id) => ({
                          traceId: hex(Math.ceil(id / 5), 32),
                          spanId: hex(id, 16),
                          name: 'wave',
                          startTimeUnixNano: `${now}000000`,
                          endTimeUnixNano: `${now + 1}000000`,
                        })),
                      },
                    ],
                  },
                ],
              };
        for (;;) {
          const answer = await fetch(`http://127.0.0.1:${product.port}/api/push/v1/${signal}`, {
            method: 'POST',
            headers: { authorization, 'content-type': 'application/json' },
            body: JSON.stringify(request),
          }).catch(() => null);
          if (answer?.ok) break;
          await new Promise((done) => setTimeout(done, 50));
        }
        for (const id of ids) taken[signal].add(signal === 'logs' ? `wave ${id} broke` : hex(id, 16));
        // often enough to be killed in the middle of it, and room for what runs beside
        await new Promise((done) => setTimeout(done, 100));
      }
    };
    const sending = Promise.all([send('logs'), send('logs'), send('traces'), send('traces')]);
    for (let round = 1; round <= KILLS; round++) {
      const before = taken.logs.size + taken.traces.size;
      await until(`more was taken in round ${round}`, () => taken.logs.size + taken.traces.size > before + 200);
      await product.kill();
      if (round === 2 || round === 5) {
        product.postgres.crash();
        await product.startPostgres();
      }
      await product.start();
    }
    ended = true;
    await sending;
    const client = await product.client();
    const { rows: blocks } = await client.query('select body from line_block');
    const { rows: waiting } = await client.query('select id, streams, payload from line_journal');
    const { rows: packedTo } = await client.query('select stream_id, journal_id from line_packed');
    const { rows: traceBlocks } = await client.query('select origins, body from trace_block');
    const { rows: open } = await client.query(
      `select payload from span_journal where id > coalesce((select max(journal_id) from span_packed), 0)`,
    );
    await client.end();
    const lines: string[] = [];
    for (const { body } of blocks) for (const { text } of await blockLines(body)) lines.push(text);
    const upTo = new Map(packedTo.map(({ stream_id, journal_id }) => [stream_id, Number(journal_id)]));
    for (const { id, streams, payload } of waiting)
      for (const [i, part] of (await journalParts(payload)).entries())
        if (Number(id) > (upTo.get(streams[i]) ?? 0)) for (const { text } of part) lines.push(text);
    const own = lines.filter((text) => text.startsWith('wave '));
    expect(own.length).toBe(new Set(own).size);
    expect([...taken.logs].filter((text) => !own.includes(text))).toEqual([]);
    const packed: string[] = [];
    for (const block of traceBlocks) for (const { spanId } of await spansIn(block)) packed.push(spanId);
    const spans = new Set(packed);
    for (const { payload } of open) for (const { spanId } of await journalSpans(payload)) spans.add(spanId);
    expect(packed.length).toBe(new Set(packed).size);
    expect([...taken.traces].filter((id) => !spans.has(id))).toEqual([]);
    console.log(
      `${taken.logs.size} log lines and ${taken.traces.size} spans taken, all there once after ${KILLS} kills of the server and two of PostgreSQL`,
    );
  });
});
