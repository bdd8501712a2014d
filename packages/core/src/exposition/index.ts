export type { Family, MetricType } from './families.ts';
export { DEFAULT_PAGE_LIMITS, type PageLimits } from './limits.ts';
export { PageMemory } from './pageMemory.ts';
export type { PageSample } from './parseSample.ts';
export type { LineProblem, PageRefusal } from './problems.ts';
export { type Page, PageReader, readPage } from './readPage.ts';
