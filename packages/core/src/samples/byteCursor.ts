/** Growing byte buffer that owns its write offset. */
export class ByteWriter {
  private bytes = new Uint8Array(256);
  private view = new DataView(this.bytes.buffer);
  length = 0;

  /** Begins anew in the same room. */
  clear(): this {
    this.length = 0;
    return this;
  }
  private room(count: number): void {
    if (this.length + count <= this.bytes.length) return;
    const larger = new Uint8Array(Math.max(this.bytes.length * 2, this.length + count));
    larger.set(this.bytes);
    this.bytes = larger;
    this.view = new DataView(larger.buffer);
  }
  byte(value: number): void {
    this.room(1);
    this.bytes[this.length++] = value;
  }
  word(value: number): void {
    this.room(4);
    this.view.setUint32(this.length, value, true);
    this.length += 4;
  }
  double(value: number): void {
    this.room(8);
    this.view.setFloat64(this.length, value, true);
    this.length += 8;
  }
  doubles(values: ArrayLike<number>): void {
    this.room(values.length * 8);
    for (let i = 0; i < values.length; i++) this.view.setFloat64(this.length + i * 8, values[i]!, true);
    this.length += values.length * 8;
  }
  bytesOf(more: Uint8Array): void {
    this.room(more.length);
    this.bytes.set(more, this.length);
    this.length += more.length;
  }
  /** Unsigned whole number up to 2^53-1, seven bits a byte, low bits first. */
  varint(value: number): void {
    let left = value;
    while (left >= 128) {
      this.byte((left % 128) | 128);
      left = Math.floor(left / 128);
    }
    this.byte(left);
  }
  finish(): Uint8Array {
    return this.bytes.slice(0, this.length);
  }
}

/** Thrown when stored bytes are not what their version says: a bug or a damaged disk, never bad input. */
export class DamagedBytes extends Error {}

export class ByteReader {
  private readonly view: DataView;
  private readonly bytes: Uint8Array;
  at = 0;
  constructor(bytes: Uint8Array) {
    this.bytes = bytes;
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  }
  private need(count: number): void {
    if (this.at + count > this.bytes.length) throw new DamagedBytes('the bytes end too early');
  }
  get left(): number {
    return this.bytes.length - this.at;
  }
  byte(): number {
    this.need(1);
    return this.bytes[this.at++]!;
  }
  word(): number {
    this.need(4);
    const value = this.view.getUint32(this.at, true);
    this.at += 4;
    return value;
  }
  double(): number {
    this.need(8);
    const value = this.view.getFloat64(this.at, true);
    this.at += 8;
    return value;
  }
  doubles(count: number): Float64Array {
    this.need(count * 8);
    const values = new Float64Array(count);
    for (let i = 0; i < count; i++) values[i] = this.view.getFloat64(this.at + i * 8, true);
    this.at += count * 8;
    return values;
  }
  /** The next bytes as they are. */
  take(count: number): Uint8Array {
    this.need(count);
    this.at += count;
    return this.bytes.subarray(this.at - count, this.at);
  }
  varint(): number {
    let value = 0;
    let scale = 1;
    for (let count = 0; count < 8; count++) {
      const byte = this.byte();
      value += (byte & 127) * scale;
      if (byte < 128) return value;
      scale *= 128;
    }
    throw new DamagedBytes('a number is too long');
  }
}
