/** Cuts a byte stream into lines that are not blank; `tooLong` says what becomes of one that is longer than the limit. */
export class LineSplitter {
  private rest: Buffer[] = [];
  private length = 0;
  /** The end of a line that was too long is not there yet. */
  private skipping = false;
  /** `tooLong` throws, or lets the line be cut. */
  constructor(
    private readonly limit: number,
    private readonly tooLong: () => void,
  ) {}

  get unfinished(): boolean {
    return this.length > 0;
  }
  *push(piece: Buffer): Generator<string> {
    let start = 0;
    for (let end = piece.indexOf(10); end >= 0; end = piece.indexOf(10, start)) {
      this.hold(piece.subarray(start, end));
      const line = this.take();
      start = end + 1;
      if (line.trim() !== '') yield line;
    }
    if (start < piece.length) this.hold(piece.subarray(start));
  }
  private hold(part: Buffer): void {
    if (this.skipping) return;
    const room = this.limit - this.length;
    if (part.length > room) {
      this.tooLong();
      this.skipping = true;
    }
    this.rest.push(part.subarray(0, room));
    this.length += Math.min(part.length, room);
  }
  private take(): string {
    const line = Buffer.concat(this.rest).toString('utf8');
    this.rest = [];
    this.length = 0;
    this.skipping = false;
    return line;
  }
}
