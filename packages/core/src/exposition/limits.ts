/** Guards against a page whose text a tenant's pod controls. Sizes in bytes of UTF-8, or characters where a string is measured. */
export interface PageLimits {
  readonly pageBytes: number;
  readonly lineBytes: number;
  readonly samples: number;
  readonly labelsPerSample: number;
  readonly nameLength: number;
  readonly labelValueLength: number;
  /** Problems kept with their place; further ones are only counted. */
  readonly problemsKept: number;
}

export const DEFAULT_PAGE_LIMITS: PageLimits = {
  pageBytes: 32 * 1024 * 1024,
  lineBytes: 64 * 1024,
  samples: 200_000,
  labelsPerSample: 64,
  nameLength: 256,
  labelValueLength: 4096,
  problemsKept: 50,
};
