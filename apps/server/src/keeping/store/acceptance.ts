/** What became of a reading. */
export type Acceptance =
  /** It is durable. `refused`: its samples that were too old. */
  | { readonly kind: 'accepted'; readonly refused: number }
  /** There is a reading of this moment already: it counts. */
  | { readonly kind: 'doubled' }
  | { readonly kind: 'tooOld' }
  /** It had to be given up: PostgreSQL did not take it for too long, or never will; `why` in words. */
  | { readonly kind: 'givenUp'; readonly why: string }
  /** Its endpoint was removed meanwhile: nobody misses it. */
  | { readonly kind: 'gone' }
  | { readonly kind: 'notOurs' };
