import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LINE_LEVELS, nothingMasked, type PartedLine, partLine } from '../lines/index.ts';
import { SPAN_KINDS, type Span } from '../spans/span.ts';
import { toTheEnd } from '../steps/index.ts';
import { readLogs } from './readLogs.ts';
import { readMetrics } from './readMetrics.ts';
import { readSpans } from './readSpans.ts';
import { logsRequest, maskedMetricsBySteps, tracesRequest } from './writeRequests.ts';

const NOW = 1_790_000_000_000;
const hex = (length: number) => fc.stringMatching(new RegExp(`^[1-9a-f]{${length}}$`));
const word = fc.stringMatching(/^[a-z][a-z ]{0,12}[a-z]$/);
const field = fc.tuple(fc.stringMatching(/^[a-z]{2,8}$/), word);
const at = fc.integer({ min: 0, max: 3_600_000_000 }).map((micros) => NOW - 3_600_000 + micros / 1000);
const attributes = [['service.name', 'quay']] as const;
const through = (value: object): unknown => JSON.parse(JSON.stringify(value));

describe('what goes on to another receiver', () => {
  it('is read there as the lines that were taken here', () => {
    const line = fc.record<PartedLine>({
      at,
      level: fc.constantFrom(...LINE_LEVELS, null),
      text: word,
      fields: fc
        .array(field, { maxLength: 4 })
        .map((all) => all.filter(([name]) => !/^(level|severity|lvl)$/.test(name))),
      traceId: fc.oneof(fc.constant(''), hex(32)),
      spanId: fc.oneof(fc.constant(''), hex(16)),
    });
    fc.assert(
      fc.property(fc.array(line, { maxLength: 5 }), (lines) => {
        const { resources, refused } = readLogs(through(logsRequest([{ attributes, items: lines }])), NOW);
        expect(refused).toBe(0);
        const read = resources.flatMap(({ items }) => items.map((one) => partLine(one, nothingMasked())));
        expect(read.map(({ at: when }) => when)).toEqual(lines.map(({ at: when }) => expect.closeTo(when, 2)));
        expect(read.map(({ at: _at, ...rest }) => rest)).toEqual(lines.map(({ at: _at, ...rest }) => rest));
        if (lines.length > 0) expect([...resources[0]!.attributes]).toEqual(attributes.map((one) => [...one])); // one was sent
      }),
    );
  });
  it('and as the spans', () => {
    const span = fc.record<Span>({
      traceId: hex(32),
      spanId: hex(16),
      parentId: fc.oneof(fc.constant(''), hex(16)),
      name: word,
      kind: fc.constantFrom(...SPAN_KINDS),
      at,
      took: fc.integer({ min: 0, max: 9_000_000 }).map((micros) => micros / 1000),
      failed: fc.boolean(),
      message: fc.oneof(fc.constant(''), word),
      fields: fc.array(field, { maxLength: 3 }),
      events: fc.array(fc.record({ at, name: word, fields: fc.array(field, { maxLength: 2 }) }), { maxLength: 2 }),
      links: fc.array(hex(32), { maxLength: 2 }),
    });
    fc.assert(
      fc.property(fc.array(span, { maxLength: 4 }), (spans) => {
        const { resources, refused } = readSpans(through(tracesRequest([{ attributes, items: spans }])), NOW);
        expect(refused).toBe(0);
        const near = ({ at: when, took, events, ...rest }: Span) => ({
          ...rest,
          at: expect.closeTo(when, 2),
          took: expect.closeTo(took, 2),
          events: events.map((event) => ({ ...event, at: expect.closeTo(event.at, 2) })),
        });
        expect(resources.flatMap(({ items }) => items)).toEqual(spans.map(near));
      }),
    );
  });
  it('is a metrics request as it came, its secrets taken out and nothing else', () => {
    const request = (token: string, mail: string) => ({
      resourceMetrics: [
        {
          resource: {
            attributes: [
              { key: 'service.name', value: { stringValue: 'quay' } },
              { key: 'api_token', value: { stringValue: token } },
              { key: 'replicas', value: { intValue: '3' } },
            ],
          },
          scopeMetrics: [
            {
              metrics: [
                {
                  name: 'lamps',
                  gauge: {
                    dataPoints: [
                      {
                        timeUnixNano: '1790000000000000000',
                        asDouble: 4,
                        attributes: [{ key: 'asked_by', value: { stringValue: mail } }],
                      },
                    ],
                  },
                },
              ],
            },
          ],
        },
      ],
    });
    const counts = nothingMasked();
    const masked = toTheEnd(maskedMetricsBySteps(request('s3cret-of-quay', 'quay@skerrivale.example'), counts));
    expect(through(masked as object)).toEqual(request('‹token›', '‹mail›'));
    expect([counts.token, counts.mail]).toEqual([1, 1]);
    const [resource] = readMetrics(through(masked as object)).resources;
    expect(resource?.points.map(({ metric, value }) => [metric, value])).toEqual([
      ['lamps', { is: 'number', value: 4 }],
    ]);
  });
  it('writes bytes as hex and what is no number as a word, and bounds what is nested', () => {
    const of = (value: unknown) => toTheEnd(maskedMetricsBySteps(value, nothingMasked()));
    expect(of({ traceId: Uint8Array.of(1, 255), asDouble: Number.NaN })).toEqual({ traceId: '01ff', asDouble: 'NaN' });
    let deep: unknown = 1;
    for (let i = 0; i < 10_000; i++) deep = [deep];
    expect(JSON.stringify(of(deep)).length).toBeLessThan(100);
  });
});
