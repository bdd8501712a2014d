import type { VersionsAnswer } from '@zetopsis/contract';
import { changeWords, type ObjectVersion } from '@zetopsis/core/inventory';
import { stringify } from 'yaml';
import { linesBetween } from '../../ground/configuration/differences.ts';

/** Unchanged lines that are shown around what changed. */
const AROUND = 2;

/** `versions` newest first. */
export function versionLines(versions: readonly ObjectVersion[], most: number): VersionsAnswer {
  return {
    versions: versions.slice(0, most).map(({ object, from, to }, i) => {
      const before = versions[i + 1]?.object;
      return {
        from,
        to,
        words: before
          ? (changeWords(before, object) ?? 'its state, not what is asked of it')
          : 'the oldest that is kept',
        lines: before
          ? near(linesBetween(textOf(before), textOf(object)))
          : linesBetween('', textOf(object)).map(({ text }) => ({ is: 'same' as const, text })),
      };
    }),
    more: versions.length > most,
  };
}

const textOf = (object: object): string => stringify(object, { lineWidth: 110, sortMapEntries: true });

type Line = VersionsAnswer['versions'][number]['lines'][number];
function near(lines: readonly Line[]): Line[] {
  const shown = new Set<number>();
  lines.forEach(({ is }, i) => {
    if (is !== 'same') for (let n = i - AROUND; n <= i + AROUND; n++) shown.add(n);
  });
  return lines.filter((_, i) => shown.has(i));
}
