import type { Page } from '@zetopsis/core/exposition';

export interface FetchedPage {
  readonly page: Page;
  readonly contentType: string;
  readonly durationMs: number;
  /** Start of the page as it came, for looking at it. */
  readonly raw: Buffer;
}
export type FetchResult =
  | { readonly ok: true; readonly fetched: FetchedPage }
  | {
      readonly ok: false;
      readonly reason: string;
      readonly durationMs: number;
      readonly status?: number;
      readonly contentType?: string;
      readonly raw?: Buffer;
    };
