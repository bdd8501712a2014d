import type { TryAnswer } from '@zetopsis/contract';
import { type Page, PageMemory, readPage } from '@zetopsis/core/exposition';
import { formatCount } from '@zetopsis/core/format';
import { type Dress, dresser } from '@zetopsis/core/scouting';
import type { FetchResult } from './fetched.ts';

const LINES = 300;
const LONGEST_LINE = 400;
const LINKS = 5;

/** What a person is told who tries an endpoint before it counts. */
export function tryAnswer(result: FetchResult, address: string, dress: Dress): TryAnswer {
  const base = {
    address,
    durationMs: Math.round(result.ok ? result.fetched.durationMs : result.durationMs),
    problems: 0,
    dropped: 0,
    lines: [],
    more: false,
    form: null,
    bytes: null,
    samples: null,
    series: null,
  };
  if (!result.ok) {
    const text = result.raw?.toString('utf8') ?? '';
    return {
      ...base,
      ok: false,
      verdict: result.reason,
      nextStep: linkToMetrics(text, address),
      status: result.status ?? null,
      contentType: result.contentType ?? null,
      lines: linesOf(text).map((line, i) => ({ line: i + 1, text: line, as: null, problem: null })),
    };
  }
  const { page, contentType, raw } = result.fetched;
  const dressing = dresser(dress);
  const dropped = page.fresh.filter(({ name, labels }) => dressing(name, labels) === null).length;
  const series = page.fresh.length;
  return {
    ...base,
    ok: true,
    verdict: `It answers with ${formatCount(page.values.length, 'sample')} of ${formatCount(page.families.size, 'metric')}.`,
    nextStep:
      page.problemCount > 0
        ? `${formatCount(page.problemCount, 'line')} could not be understood and would count for nothing.`
        : null,
    status: 200,
    contentType,
    form: page.form === 'openmetrics' ? 'OpenMetrics' : 'plain text',
    bytes: page.bytes,
    samples: page.values.length,
    series: series - dropped,
    dropped,
    problems: page.problemCount,
    lines: understood(raw.toString('utf8'), page, dressing),
    more: page.lines > LINES,
  };
}

const linesOf = (text: string): string[] =>
  text
    .split('\n', LINES)
    .map((line) => line.slice(0, LONGEST_LINE))
    .filter((line, i, all) => line !== '' || i < all.length - 1);

function understood(text: string, page: Page, dressing: ReturnType<typeof dresser>): TryAnswer['lines'] {
  const problems = new Map(page.problems.map((problem) => [problem.line, problem]));
  return text
    .split('\n', LINES)
    .map((line, i) => {
      const problem = problems.get(i + 1);
      return {
        line: i + 1,
        text: line.slice(0, LONGEST_LINE),
        as: problem ? null : meaningOf(line, dressing),
        problem: problem ? `column ${problem.column}: ${problem.text}` : null,
      };
    })
    .filter(({ text: line }, i, all) => line !== '' || i < all.length - 1);
}
/** One line by itself: what it says, as it would be kept. */
function meaningOf(line: string, dressing: ReturnType<typeof dresser>): string | null {
  const about = /^# (TYPE|UNIT|HELP) (\S+) ?(.*)$/.exec(line);
  if (about) {
    const [, word, name, rest = ''] = about;
    return word === 'TYPE' ? `${name} is a ${rest}` : word === 'UNIT' ? `${name} is in ${rest}` : null;
  }
  if (line.startsWith('#') || line.trim() === '') return null;
  const bare = line.replace(/ # \{.*$/, '');
  const { fresh, values } = readPage(new TextEncoder().encode(`${bare}\n`), {
    form: 'plain',
    memory: new PageMemory(),
  });
  const [series] = fresh;
  if (!series) return null;
  const labels = dressing(series.name, series.labels);
  if (labels === null) return 'left out: a line of its endpoint names it';
  return `${[series.name, ...labels.map(([name, value]) => `${name} ${value}`)].join(' · ')} = ${values[0]}`;
}

/** The page that an HTML page links to and that looks like the right one. */
function linkToMetrics(text: string, address: string): string | null {
  const paths = [...text.matchAll(/href\s*=\s*["']([^"'<>\s]{1,200})["']/gi)]
    .map(([, href = '']) => href)
    .filter((href) => /metric/i.test(href))
    .slice(0, LINKS)
    .filter((href) => URL.canParse(href, address))
    .map((href) => new URL(href, address))
    .filter((url) => url.origin === new URL(address).origin);
  return paths[0] ? `It links to ${paths[0].pathname}, which is probably the right path.` : null;
}
