import { DamagedBytes } from './byteCursor.ts';

const TWO_32 = 2 ** 32;

/** Writes whole numbers of any width up to 53 bits, high bits first. Owns its offset. */
export class BitWriter {
  private bytes = new Uint8Array(256);
  private length = 0;
  /** Bits that fill no byte yet, right-aligned. */
  private pending = 0;
  private bits = 0;

  /** Begins anew in the same room. */
  clear(): this {
    this.length = this.pending = this.bits = 0;
    return this;
  }
  put(value: number, width: number): void {
    if (width > 32) {
      this.put(Math.floor(value / TWO_32), width - 32);
      this.put(value % TWO_32, 32);
      return;
    }
    if (width > 24) {
      this.put(Math.floor(value / 65_536), width - 16);
      this.put(value % 65_536, 16);
      return;
    }
    // at most 7 + 24 bits wait here
    this.pending = (this.pending << width) | value;
    this.bits += width;
    while (this.bits >= 8) {
      this.bits -= 8;
      this.byte((this.pending >>> this.bits) & 255);
    }
    this.pending &= (1 << this.bits) - 1;
  }
  finish(): Uint8Array {
    if (this.bits > 0) this.byte((this.pending << (8 - this.bits)) & 255);
    this.bits = 0;
    return this.bytes.slice(0, this.length);
  }
  private byte(value: number): void {
    if (this.length === this.bytes.length) {
      const larger = new Uint8Array(this.bytes.length * 2);
      larger.set(this.bytes);
      this.bytes = larger;
    }
    this.bytes[this.length++] = value;
  }
}

/** Reads what a BitWriter wrote; bits past the end are damage. */
export class BitReader {
  private at = 0;
  private readonly bytes: Uint8Array;
  private readonly total: number;
  constructor(bytes: Uint8Array) {
    this.bytes = bytes;
    this.total = bytes.length * 8;
  }
  skip(width: number): void {
    this.at += width;
  }
  get(width: number): number {
    if (width > 24) {
      const high = this.get(width - 24);
      return high * 16_777_216 + this.get(24);
    }
    if (width === 0) return 0;
    const { bytes, at } = this;
    if (at + width > this.total) throw new DamagedBytes('the bits end too early');
    this.at = at + width;
    const first = at >>> 3;
    const skip = at & 7;
    // 24 bits begin within a byte and end within the fourth
    const word =
      ((bytes[first]! << 24) |
        ((bytes[first + 1] ?? 0) << 16) |
        ((bytes[first + 2] ?? 0) << 8) |
        (bytes[first + 3] ?? 0)) <<
      skip;
    return word >>> (32 - width);
  }
}
