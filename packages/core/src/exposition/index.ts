export type { Family, MetricType } from './families.ts';
export { type Form, formOf } from './forms.ts';
export { DEFAULT_PAGE_LIMITS, type PageLimits } from './limits.ts';
export { notMetrics } from './notMetrics.ts';
export { type FreshSeries, type Page, PageMemory } from './page.ts';
export type { Exemplar, PageSample } from './parseSample.ts';
export type { LineProblem, PageRefusal } from './problems.ts';
export { PageBuffer, readBuffer, readPage, samplesOf } from './readPage.ts';
export { type FamilyOut, numberText, type SampleOut, writePage, writePageBySteps } from './writePage.ts';
