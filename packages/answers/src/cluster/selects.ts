import type { PodObject } from '@zetopsis/core/inventory';

/** An empty selector selects nothing. */
export const selects = (selector: Readonly<Record<string, string>>, { labels }: Pick<PodObject, 'labels'>): boolean => {
  const wanted = Object.entries(selector);
  return wanted.length > 0 && wanted.every(([key, value]) => labels[key] === value);
};
