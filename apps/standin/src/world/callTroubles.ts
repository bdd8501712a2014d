const MINUTE = 60_000;

/** What may be the matter between two programs. */
export const CALL_TROUBLES = ['cut', 'flood', 'delay', 'refuse', 'fail'] as const;
export type CallTrouble = (typeof CALL_TROUBLES)[number];
export interface BetweenTwo {
  readonly from: string;
  readonly to: string;
  readonly how: CallTrouble;
  readonly since: number;
  /** Null: it goes on. */
  readonly until: number | null;
}
/** Of the story, in minutes before the world began to be looked at. */
const STORY: readonly (Pick<BetweenTwo, 'from' | 'to' | 'how'> & { readonly before: number })[] = [
  { from: 'vessel-tracker', to: 'queue', how: 'cut', before: 35 },
  { from: 'gauge-reader', to: 'tide-model', how: 'flood', before: 12 },
  { from: 'radio-notes', to: 'pilot-roster', how: 'fail', before: 20 },
  { from: 'document-store', to: 'archive', how: 'refuse', before: 15 },
  // what quay-board waits for lies two steps behind it
  { from: 'slot-allocator', to: 'ledger-base', how: 'delay', before: 18 },
];

/** What is the matter between programs that call each other, by their names: as a story begins, and as it is asked for. */
export class CallTroubles {
  private list: BetweenTwo[];
  constructor(begins: number, hasStory: boolean) {
    this.list = hasStory
      ? STORY.map(({ before, ...own }) => ({ ...own, since: begins - before * MINUTE, until: null }))
      : [];
  }
  /** `how` null mends what there is. */
  set(from: string, to: string, how: CallTrouble | null, now: number): void {
    this.list = this.list.map((own) =>
      own.from === from && own.to === to && own.until === null ? { ...own, until: now } : own,
    );
    if (how !== null) this.list.push({ from, to, how, since: now, until: null });
  }
  at(from: string, to: string, moment: number): CallTrouble | null {
    const own = this.list.find(
      (one) => one.from === from && one.to === to && one.since <= moment && (one.until === null || moment < one.until),
    );
    return own?.how ?? null;
  }
  get all(): readonly BetweenTwo[] {
    return this.list;
  }
}
