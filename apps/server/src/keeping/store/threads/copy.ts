import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type pg from 'pg';
import { from as copyFrom, to as copyTo } from 'pg-copy-streams';

/**
 * PostgreSQL's binary COPY: 19 bytes of head, then rows of u16 fields, each i32 length (-1: null) and bytes; ends with
 * 0xffff. Several times faster than the driver's ordinary path, which carries bytea as hexadecimal text
 * (design/storage.md, step 6). Source: PostgreSQL manual, "COPY", binary format.
 */
const HEAD = Buffer.from('PGCOPY\n\xff\r\n\0\0\0\0\0\0\0\0\0', 'latin1');

const viewOf = ({ buffer, byteOffset, length }: Buffer) => new DataView(buffer, byteOffset, length);

export class CopyRows {
  private buffer = Buffer.allocUnsafe(1 << 20);
  private view = viewOf(this.buffer);
  private length = 0;
  rows = 0;
  constructor() {
    HEAD.copy(this.buffer);
    this.length = HEAD.length;
  }
  private room(count: number): void {
    if (this.length + count <= this.buffer.length) return;
    const larger = Buffer.allocUnsafe(Math.max(this.buffer.length * 2, this.length + count));
    this.buffer.copy(larger, 0, 0, this.length);
    this.buffer = larger;
    this.view = viewOf(larger);
  }
  begin(fields: number): void {
    this.room(2);
    this.view.setInt16(this.length, fields);
    this.length += 2;
    this.rows++;
  }
  int(value: number): void {
    this.room(8);
    this.view.setInt32(this.length, 4);
    this.view.setInt32(this.length + 4, value);
    this.length += 8;
  }
  /** Whole numbers up to 2^53 as bigint. */
  big(value: number): void {
    this.room(12);
    this.view.setInt32(this.length, 8);
    this.view.setInt32(this.length + 4, Math.floor(value / 2 ** 32));
    this.view.setUint32(this.length + 8, value >>> 0);
    this.length += 12;
  }
  bytes(value: Uint8Array | null): void {
    this.room(4 + (value?.length ?? 0));
    this.view.setInt32(this.length, value?.length ?? -1);
    this.length += 4;
    if (!value) return;
    this.buffer.set(value, this.length);
    this.length += value.length;
  }
  private finish(): Buffer {
    this.room(2);
    this.length = this.buffer.writeInt16BE(-1, this.length);
    return this.buffer.subarray(0, this.length);
  }
  async into(client: pg.Client, table: string, columns: readonly string[]): Promise<void> {
    if (this.rows === 0) return;
    const whole = this.finish();
    // sent in pieces: one huge message would be held twice
    const pieces = function* () {
      for (let at = 0; at < whole.length; at += 65_536) yield whole.subarray(at, at + 65_536);
    };
    await pipeline(
      Readable.from(pieces(), { objectMode: false }),
      client.query(copyFrom(`copy ${table} (${columns.join(', ')}) from stdin (format binary)`)),
    );
  }
}

export class CopiedRow {
  at = 0;
  constructor(private readonly buffer: Buffer) {}
  int(): number {
    this.at += 8;
    return this.buffer.readInt32BE(this.at - 4);
  }
  big(): number {
    this.at += 12;
    return Number(this.buffer.readBigInt64BE(this.at - 8));
  }
  /** As it stands in what was read, which is let go of when the row is taken. */
  view(): Uint8Array | null {
    const length = this.buffer.readInt32BE(this.at);
    this.at += 4;
    if (length < 0) return null;
    this.at += length;
    return this.buffer.subarray(this.at - length, this.at);
  }
  /** A copy, aligned and its own. */
  bytes(): Uint8Array | null {
    const view = this.view();
    return view && (Uint8Array.prototype.slice.call(view) as Uint8Array); // of bytes, as it came
  }
  text(): string {
    const length = this.buffer.readInt32BE(this.at);
    this.at += 4 + length;
    return this.buffer.toString('utf8', this.at - length, this.at);
  }
}

/**
 * Each row of a query, as it arrives. A COPY takes no parameters: whoever builds the query puts nothing into it but
 * checked numbers.
 */
export async function copyOut(client: pg.Client, query: string, take: (row: CopiedRow) => void): Promise<void> {
  const stream = client.query(copyTo(`copy (${query}) to stdout (format binary)`));
  let rest: Buffer = Buffer.alloc(0);
  let head = true;
  for await (const piece of stream) {
    const got = piece as Buffer; // the stream gives buffers
    const buffer = rest.length === 0 ? got : Buffer.concat([rest, got]);
    let at = 0;
    if (head) {
      if (buffer.length < HEAD.length) {
        rest = buffer;
        continue;
      }
      head = false;
      at = HEAD.length;
    }
    const row = new CopiedRow(buffer);
    for (;;) {
      const end = endOfRow(buffer, at);
      if (end < 0) break;
      row.at = at + 2;
      take(row);
      at = end;
    }
    rest = buffer.subarray(at);
  }
}
/** -1 when it has not arrived in full, or the rows are over. */
function endOfRow(buffer: Buffer, from: number): number {
  if (from + 2 > buffer.length) return -1;
  let fields = buffer.readInt16BE(from);
  if (fields < 0) return -1;
  let at = from + 2;
  for (; fields > 0; fields--) {
    if (at + 4 > buffer.length) return -1;
    at += 4 + Math.max(0, buffer.readInt32BE(at));
  }
  return at > buffer.length ? -1 : at;
}

/** Numbers for a query's text; anything else is a bug. */
export function numbers(list: Iterable<number>): string {
  const all = [...list];
  if (!all.every(Number.isSafeInteger)) throw new TypeError('only whole numbers go into a query');
  return all.join(',');
}
