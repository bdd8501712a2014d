import fc from 'fast-check';
import protobuf from 'protobufjs';
import { describe, expect, it } from 'vitest';
import { decodeRequest } from './decodeRequest.ts';
import { PUSH_SCHEMA } from './wire-names.ts';

const whole = protobuf.Root.fromJSON(PUSH_SCHEMA as unknown as protobuf.INamespace).lookupType('MetricsRequest'); // read only
/** The plain way: all of it at once. */
const plainly = (bytes: Uint8Array) => whole.toObject(whole.decode(bytes), { longs: String });
const stepping = (bytes: Uint8Array) => {
  const steps = decodeRequest('metrics', bytes);
  for (let count = 0; ; count++) {
    const { done, value } = steps.next();
    if (done) return { value, count };
  }
};

const attribute = fc.record({ key: fc.string(), value: fc.record({ stringValue: fc.string() }) });
const point = fc.record({
  timeUnixNano: fc.nat().map(String),
  asDouble: fc.double({ noNaN: true }),
  attributes: fc.array(attribute, { maxLength: 3 }),
});
const held = fc.record({
  dataPoints: fc.array(point, { maxLength: 5 }),
  aggregationTemporality: fc.nat(2),
  isMonotonic: fc.boolean(),
});
const metric = fc.oneof(
  fc.record({ name: fc.string(), unit: fc.string(), sum: held }),
  fc.record({ name: fc.string(), description: fc.string(), gauge: held }),
);
const request = fc.record({
  resourceMetrics: fc.array(
    fc.record({
      resource: fc.record({ attributes: fc.array(attribute, { maxLength: 2 }) }),
      scopeMetrics: fc.array(fc.record({ metrics: fc.array(metric, { maxLength: 4 }) }), { maxLength: 3 }),
    }),
    { maxLength: 3 },
  ),
});
const encoded = (own: object) => whole.encode(whole.fromObject(own)).finish();

describe('a binary request', () => {
  it('is what the library makes of it at once', () => {
    fc.assert(
      fc.property(request, (own) => {
        const bytes = encoded(own);
        expect(stepping(bytes).value).toEqual(plainly(bytes));
      }),
    );
  });
  it('lets others in after every point', () => {
    const dataPoints = Array.from({ length: 500 }, () => ({ asDouble: 1 }));
    const own = { resourceMetrics: [{ scopeMetrics: [{ metrics: [{ name: 'lamp', gauge: { dataPoints } }] }] }] };
    expect(stepping(encoded(own)).count).toBe(500);
  });
  it('that is bent anywhere is refused or read, and no part of it reaches beyond the whole', () => {
    fc.assert(
      fc.property(request, fc.array(fc.tuple(fc.nat(), fc.nat(255)), { minLength: 1, maxLength: 6 }), (own, bends) => {
        const bytes = encoded(own);
        for (const [at, byte] of bends) if (bytes.length > 0) bytes[at % bytes.length] = byte;
        try {
          expect(stepping(bytes).value).toBeTypeOf('object');
        } catch (error) {
          expect(error).toBeInstanceOf(Error);
        }
      }),
      { numRuns: 1000 },
    );
  });
});
