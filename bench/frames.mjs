// Whether a long column and a long table scroll smoothly: times between frames in a browser while 5,000 rows are scrolled by
// the wheel (120 pixels a frame), dragged from top to bottom within 240 frames, walked by key, and sorted anew, against
// scrolling as many plain lines of text in the same browser.
// npm run bench -- frames [pods] [seconds]
import { chromium } from '@playwright/test';
import { chromiumOptions } from '../scripts/chromium.mjs';
import { report } from './measure.mjs';
import { PODS } from './outside.mjs';
import { product } from './product.mjs';

const [WANTED = 5100, SECONDS = 90] = process.argv.slice(2).map(Number);
const LONG = 50; // ms, a frame that one sees
const FRAMES = 240;
const WHEEL = 120; // px

const { base, cookie, end } = await product(
  { long: { nodes: Math.ceil(WANTED / PODS), sets: 1, spaces: 1 } },
  { port: 25_791, intervalSeconds: 15, readFor: SECONDS * 1000 },
);
const browser = await chromium.launch(chromiumOptions());
const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
const [name, value] = cookie().split('=');
await context.addCookies([{ name, value, url: base }]);
const page = await context.newPage();

/** Times between frames while an element is scrolled: so many pixels a frame, or all of it in as many frames. */
const scrolled = (selector, by) =>
  page.evaluate(
    ([wanted, frames, pixels]) =>
      new Promise((done) => {
        const box = document.querySelector(wanted);
        box.scrollTo(0, 0);
        const times = [];
        const most = box.scrollHeight - box.clientHeight;
        let last = performance.now();
        let step = 0;
        const frame = (now) => {
          times.push(now - last);
          last = now;
          if (step++ === frames) return done(times.slice(1));
          box.scrollTop = pixels === null ? (most * step) / frames : pixels * step;
          requestAnimationFrame(frame);
        };
        requestAnimationFrame(frame);
      }),
    [selector, FRAMES, by],
  );
/** Times between frames while something is done to the page, until nothing has changed for a while. */
const during = async (act) => {
  await page.evaluate(() => {
    window.frameTimes = [];
    let last = performance.now();
    const frame = (now) => {
      window.frameTimes.push(now - last);
      last = now;
      if (window.frameTimes) requestAnimationFrame(frame);
    };
    requestAnimationFrame(frame);
  });
  await act();
  return page.evaluate(() => {
    const times = window.frameTimes.slice(1);
    window.frameTimes = null;
    return times;
  });
};
const figures = (times) => {
  const sorted = [...times].sort((a, b) => a - b);
  const at = (share) => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))];
  return { median: at(0.5), late: at(0.99), most: sorted.at(-1), long: times.filter((time) => time > LONG).length };
};
const told = (what, times, plain) => {
  const own = figures(times);
  report(
    what,
    `plain text, ${plain.late.toFixed(1)} ms at 99 %`,
    `${(own.late / plain.late).toFixed(1)} × time`,
    `median ${own.median.toFixed(1)} ms, 99 % ${own.late.toFixed(1)} ms, most ${own.most.toFixed(0)} ms; ${own.long} of ${times.length} frames over ${LONG} ms`,
  );
};

await page.goto('about:blank');
await page.setContent(
  `<div id="plain" style="height:700px;overflow:auto">${Array.from({ length: 5000 }, (_, i) => `<div style="height:47px">svc-0-${i} 0.21 21 %</div>`).join('')}</div>`,
);
const plain = figures(await scrolled('#plain', null));

await page.goto(`${base}/usage?in=long/team-0/stateful-set:svc-0&sheet=closed`);
const column = page.getByRole('listbox', { name: 'Pods' });
await column.getByRole('option').first().waitFor({ timeout: 60_000 });
const rows = await column.evaluate((box) => Math.round(box.scrollHeight / 47));
console.log(`  a column of ${rows} rows`);
const COLUMN = '[role=listbox][aria-label=Pods]';
for (const run of [1, 2, 3]) told(`column by the wheel, run ${run}`, await scrolled(COLUMN, WHEEL), plain);
for (const run of [1, 2, 3]) told(`column dragged, run ${run}`, await scrolled(COLUMN, null), plain);
await column.evaluate((box) => box.scrollTo(0, 0));
await column.getByRole('option').first().click();
const walked = await during(async () => {
  for (let i = 0; i < 60; i++) await page.keyboard.press('j');
});
told('column walked by key', walked, plain);
const resorted = await during(async () => {
  for (const order of ['name', 'use', 'tightness']) await page.getByLabel('order of Pods').selectOption(order);
});
told('column sorted anew, three times', resorted, plain);

await page.goto(`${base}/usage?in=long&as=table&rows=pod&sheet=closed`);
await page.getByRole('table', { name: 'table of usage' }).getByRole('link').first().waitFor({ timeout: 60_000 });
await page.evaluate(() => document.querySelector('table').parentElement.setAttribute('data-scrolls', ''));
for (const run of [1, 2, 3]) told(`table by the wheel, run ${run}`, await scrolled('[data-scrolls]', WHEEL), plain);
for (const run of [1, 2, 3]) told(`table dragged, run ${run}`, await scrolled('[data-scrolls]', null), plain);
await browser.close();
await end();
process.exit(0);
