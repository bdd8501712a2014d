import type { BlockLine } from '@zetopsis/core/lines';
import type { Origin } from '@zetopsis/core/origins';
import type { EpochMs } from '@zetopsis/core/units';

/** Lines of one stream that came together: each says by its number which of the origins it is of. */
export interface Together {
  /** Of the journal. */
  readonly id: number;
  readonly at: EpochMs;
  readonly origins: readonly Origin[];
  readonly lines: readonly BlockLine[];
  /** About what they take. */
  readonly bytes: number;
}
/** Letters of a line's text and fields. */
export const lettersOf = ({ text, fields }: Pick<BlockLine, 'text' | 'fields'>): number =>
  fields.reduce((sum, [name, value]) => sum + name.length + value.length, text.length);

/** What is journalled and in no block yet, by stream, in the order of the journal. */
export class NewestLines {
  private readonly streams = new Map<number, Together[]>();
  /** Of all that is held. */
  bytes = 0;

  add(stream: number, together: Together): void {
    const held = this.streams.get(stream);
    if (held) held.push(together);
    else this.streams.set(stream, [together]);
    this.bytes += together.bytes;
  }
  of(stream: number): readonly Together[] {
    return this.streams.get(stream) ?? [];
  }
  /** Once the first of them are in a block. */
  packed(stream: number, count: number): void {
    const held = this.streams.get(stream);
    if (!held) return;
    for (const { bytes } of held.splice(0, count)) this.bytes -= bytes;
    if (held.length === 0) this.streams.delete(stream);
  }
  clear(): void {
    this.streams.clear();
    this.bytes = 0;
  }
  /** When the oldest of all came; null when nothing is held. */
  get oldestAt(): EpochMs | null {
    let oldest: EpochMs | null = null;
    for (const [first] of this.streams.values()) if (first && (oldest === null || first.at < oldest)) oldest = first.at;
    return oldest;
  }
  /** What each stream holds, the most first. */
  sizes(): { readonly stream: number; readonly bytes: number; readonly lines: number; readonly since: EpochMs }[] {
    return [...this.streams]
      .map(([stream, held]) => ({
        stream,
        bytes: held.reduce((sum, { bytes }) => sum + bytes, 0),
        lines: held.reduce((sum, { lines }) => sum + lines.length, 0),
        since: held[0]!.at, // a stream that holds nothing is not held
      }))
      .sort((a, b) => b.bytes - a.bytes);
  }
}
