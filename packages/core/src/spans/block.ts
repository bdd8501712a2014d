import {
  opened,
  readCount,
  readFields,
  readIds,
  readRepeated,
  readTexts,
  readTimes,
  writeFields,
  writeIds,
  writeRepeated,
  writeTexts,
  writeTimes,
} from '../lines/columns.ts';
import { ByteWriter } from '../samples/byteCursor.ts';
import { type BlockSpan, SPAN_KINDS } from './span.ts';

/**
 * Spans, those of a trace one after the other, format version 1, column by column: u8 version · varint spans · trace ids · span ids ·
 * parents · beginnings (µs) · lengths (µs) · kinds and failures · origins · names · messages · fields · events · links.
 */
const VERSION = 1;

export function encodeSpans(spans: readonly BlockSpan[]): Uint8Array {
  const out = new ByteWriter();
  out.byte(VERSION);
  out.varint(spans.length);
  const column = <T>(of: (span: BlockSpan) => T): T[] => spans.map(of);
  writeIds(
    out,
    column(({ traceId }) => traceId),
  );
  writeIds(
    out,
    column(({ spanId }) => spanId),
  );
  // a parent mostly stands a few places before: where it does, its place says it
  const places = new Map<string, number>();
  const far: string[] = [];
  spans.forEach(({ traceId, spanId, parentId }, i) => {
    const place = parentId === '' ? undefined : places.get(`${traceId} ${parentId}`);
    out.varint(parentId === '' ? 0 : place === undefined ? 1 : i - place + 1);
    if (parentId !== '' && place === undefined) far.push(parentId);
    places.set(`${traceId} ${spanId}`, i);
  });
  writeIds(out, far);
  writeTimes(
    out,
    column(({ at }) => at),
  );
  for (const { took } of spans) out.varint(Math.round(took * 1000));
  for (const { kind, failed } of spans) out.byte(SPAN_KINDS.indexOf(kind) * 2 + (failed ? 1 : 0));
  for (const { origin } of spans) out.varint(origin);
  writeRepeated(
    out,
    column(({ name }) => name),
  );
  writeRepeated(
    out,
    column(({ message }) => message),
  );
  writeFields(
    out,
    column(({ fields }) => fields),
  );
  const events = spans.flatMap((span) => span.events);
  for (const span of spans) out.varint(span.events.length);
  writeTimes(
    out,
    events.map(({ at }) => at),
  );
  writeTexts(
    out,
    events.map(({ name }) => name),
  );
  writeFields(
    out,
    events.map(({ fields }) => fields),
  );
  for (const { links } of spans) out.varint(links.length);
  writeIds(
    out,
    spans.flatMap(({ links }) => links),
  );
  return out.finish();
}

export function decodeSpans(bytes: Uint8Array): BlockSpan[] {
  const input = opened(bytes, VERSION, 'span');
  const count = readCount(input);
  const list = <T>(read: (i: number) => T): T[] => Array.from({ length: count }, (_, i) => read(i));
  const traceIds = readIds(input, count, 16);
  const spanIds = readIds(input, count, 8);
  const steps = list(() => input.varint());
  const far = readIds(input, steps.filter((step) => step === 1).length, 8);
  let nextFar = 0;
  const parents = steps.map((step, i) =>
    step === 0 ? '' : step === 1 ? far[nextFar++]! : (spanIds[i - step + 1] ?? ''),
  );
  const times = readTimes(input, count);
  const lengths = list(() => input.varint() / 1000);
  const kinds = list(() => input.byte());
  const origins = list(() => input.varint());
  const names = readRepeated(input, count);
  const messages = readRepeated(input, count);
  const fields = readFields(input, count);
  const counts = list(() => readCount(input));
  const sum = counts.reduce((all, own) => all + own, 0);
  const eventTimes = readTimes(input, Math.min(sum, input.left));
  const eventNames = readTexts(input, eventTimes.length);
  const eventFields = readFields(input, eventTimes.length);
  const linkCounts = list(() => readCount(input));
  const links = readIds(
    input,
    Math.min(
      linkCounts.reduce((all, own) => all + own, 0),
      input.left,
    ),
    16,
  );
  let event = 0;
  let link = 0;
  return list((i) => {
    const ownEvents = eventTimes.slice(event, event + counts[i]!).map((at, j) => ({
      at,
      name: eventNames[event + j]!,
      fields: eventFields[event + j]!,
    }));
    event += counts[i]!;
    const ownLinks = links.slice(link, link + linkCounts[i]!);
    link += linkCounts[i]!;
    return {
      traceId: traceIds[i]!,
      spanId: spanIds[i]!,
      parentId: parents[i]!,
      name: names[i]!,
      kind: SPAN_KINDS[kinds[i]! >> 1] ?? 'unspecified',
      at: times[i]!,
      took: lengths[i]!,
      failed: (kinds[i]! & 1) === 1,
      message: messages[i]!,
      fields: fields[i]!,
      events: ownEvents,
      links: ownLinks,
      origin: origins[i]!,
    };
  });
}
