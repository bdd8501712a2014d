export type { Family, MetricType } from './families.ts';
export { DEFAULT_PAGE_LIMITS, type PageLimits } from './limits.ts';
export { PageMemory } from './pageMemory.ts';
export type { LineProblem, PageRefusal } from './problems.ts';
export { type Page, PageReader, type PageSample, readPage } from './readPage.ts';
