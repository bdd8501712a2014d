import protobuf from 'protobufjs';
import { LEAF_MESSAGES, PUSH_SCHEMA, RETRY_TYPE, SIGNALS, type Signal } from './wire-names.ts';

const schema = protobuf.Root.fromJSON(PUSH_SCHEMA as unknown as protobuf.INamespace); // read only
schema.resolveAll();
const Answer = schema.lookupType('Answer');
const LEAVES: ReadonlySet<string> = new Set(LEAF_MESSAGES);
type Plain = Record<string, unknown>;

/**
 * A request in the protocol's binary form as a plain object, as the decoder of the library makes it; yields after each point,
 * since a body may hold tens of thousands. Throws where the bytes are no such request.
 */
export function* decodeRequest(signal: Signal, bytes: Uint8Array): Generator<void, Plain> {
  const reader = protobuf.Reader.create(bytes);
  return yield* decode(schema.lookupType(SIGNALS[signal].request), reader, reader.len);
}

function* decode(type: protobuf.Type, reader: protobuf.Reader, end: number): Generator<void, Plain> {
  const out: Plain = {};
  while (reader.pos < end) {
    const tag = reader.uint32();
    const field = type.fieldsById[tag >>> 3];
    const asked = field?.type === 'bool' || field?.type === 'int32' ? 0 : 2;
    if (field === undefined || (tag & 7) !== asked) {
      reader.skipType(tag & 7);
      continue;
    }
    let value: unknown;
    if (field.resolvedType instanceof protobuf.Type) {
      const length = reader.uint32();
      // the length is the sender's word: it may not reach beyond what holds it
      if (reader.pos + length > end) throw new RangeError('a part is longer than the whole');
      if (LEAVES.has(field.resolvedType.name)) {
        const own = field.resolvedType;
        value = own.toObject(own.decode(reader, length), { longs: String });
        yield;
      } else value = yield* decode(field.resolvedType, reader, reader.pos + length);
    } else value = scalar(field, reader);
    if (field.repeated) {
      const list = out[field.name] as unknown[] | undefined; // only lists are put there
      if (list) list.push(value);
      else out[field.name] = [value];
    } else out[field.name] = value;
  }
  if (reader.pos !== end) throw new RangeError('a part ends beyond the whole');
  return out;
}
function scalar(field: protobuf.Field, reader: protobuf.Reader): unknown {
  switch (field.type) {
    case 'string':
      return reader.string();
    case 'bool':
      return reader.bool();
    default:
      return reader.int32(); // of what holds points, only kinds of counting are left
  }
}

/** What of a request was not taken, in its binary form. */
export const encodeAnswer = (refused: number, problem: string | null): Buffer =>
  Buffer.from(
    Answer.encode(
      Answer.fromObject(
        refused === 0 ? {} : { partialSuccess: { rejected: String(refused), errorMessage: problem ?? '' } },
      ),
    ).finish(),
  );
/** The same in its JSON form. */
export const answerOf = (signal: Signal, refused: number, problem: string | null) =>
  refused === 0 ? {} : { partialSuccess: { [SIGNALS[signal].rejected]: String(refused), errorMessage: problem ?? '' } };
/** A refusal that may be sent again after some seconds, as gRPC has it. */
export function encodeRetry(code: number, message: string, seconds: number): Buffer {
  const of = (type: string, value: object) => {
    const own = schema.lookupType(type);
    return Buffer.from(own.encode(own.fromObject(value)).finish());
  };
  const value = of('RetryInfo', { retryDelay: { seconds: String(seconds) } });
  return of('Status', { code, message, details: [{ typeUrl: RETRY_TYPE, value }] });
}
