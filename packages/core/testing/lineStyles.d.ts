/** Lines of three programs that were written beforehand, each with what wrote it: the kind is the truth that wordings are held against. */
interface StyledLine {
  readonly kind: string;
  readonly text: string;
}
export declare const LINE_STYLES: readonly [
  {
    readonly name: 'an application server with time, level and thread';
    readonly lines: StyledLine[];
  },
  {
    readonly name: 'a way in with requests';
    readonly lines: StyledLine[];
  },
  {
    readonly name: 'an agent of a machine';
    readonly lines: StyledLine[];
  },
];
/** The share of lines whose number stands for their kind alone, and for all of it. */
export declare function rightShare(lines: readonly Pick<StyledLine, 'kind'>[], numbers: readonly number[]): number;
//# sourceMappingURL=lineStyles.d.ts.map
