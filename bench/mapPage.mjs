// The map of 2,000 boxes and 6,000 links in a browser: from asking to the first picture, and how long the page stands still while the whole is
// drawn, while a refresh comes in which every figure is another and a few boxes came and went, and while it is searched; how far what stayed
// moved. Against the same number of plain rectangles and lines put into the same page at once. npm run bench -- mapPage [boxes] [links]
import { chromium } from '@playwright/test';
import { mapBySteps } from '../packages/answers/dist/map/index.js';
import { toTheEnd } from '../packages/core/dist/steps/index.js';
import { chromiumOptions } from '../scripts/chromium.mjs';
import { mapWorld } from './mapWorld.mjs';
import { report } from './measure.mjs';
import { product } from './product.mjs';

const [BOXES = 2000, LINKS = 6000] = process.argv.slice(2).map(Number);
const world = mapWorld(BOXES, LINKS);
const answer = toTheEnd(mapBySteps(world.read, world.known));
for (const [i, box] of answer.boxes.entries()) Object.assign(box, { cpu: (i % 97) / 97, memory: 0.4, holds: 3 });
/** A minute later: every figure is another; 5 boxes went, 5 came. */
const later = () => {
  const went = new Set(answer.boxes.slice(100, 105).map(({ key }) => key));
  const came = answer.boxes.slice(100, 105).map((box, i) => ({ ...box, key: `${box.key}-new`, name: `new-${i}` }));
  const boxes = answer.boxes.filter(({ key }) => !went.has(key)).map((box) => ({ ...box, cpu: 1 - box.cpu }));
  const links = answer.links
    .filter(({ from, to }) => !went.has(from) && !went.has(to))
    .map((link) => ({ ...link, sent: (link.sent ?? 0) * 1.1 }));
  const fresh = came.map((box, i) => ({ ...links[i], key: `fresh ${i}`, to: box.key }));
  const trouble = answer.trouble.filter(({ link }) => links.some(({ key }) => key === link));
  return { ...answer, at: answer.at + 60_000, boxes: [...boxes, ...came], links: [...links, ...fresh], trouble };
};
let told = answer;
const { base, cookie, end } = await product({}, { port: 25_791, intervalSeconds: 15, readFor: 0 });
const browser = await chromium.launch(chromiumOptions());
const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
const [name, value] = cookie().split('=');
await context.addCookies([{ name, value, url: base }]);
const page = await context.newPage();
await page.route('**/api/map?*', (route) => route.fulfill({ json: told }));
await page.addInitScript(() => {
  window.stops = [];
  new PerformanceObserver((list) => {
    for (const { duration } of list.getEntries()) window.stops.push(duration);
  }).observe({ type: 'longtask' });
});
const stops = async () => {
  const all = await page.evaluate(() => window.stops.splice(0));
  return `longest stop ${Math.round(Math.max(0, ...all))} ms, ${all.length} over 50 ms`;
};
/** How long plain shapes take, put into an empty page at once. */
await page.goto(`${base}/`);
const plain = await page.evaluate(
  ([boxes, links]) => {
    const began = performance.now();
    const svg = document.createElementNS('http://www.w3.org/2000/svg', 'svg');
    svg.innerHTML =
      Array.from({ length: boxes }, (_, i) => `<rect x="${i % 50}" y="${i}" width="40" height="8"/>`).join('') +
      Array.from({ length: links }, (_, i) => `<path d="M${i % 50} ${i % 900}L90 ${i % 700}"/>`).join('');
    document.body.append(svg);
    svg.getBoundingClientRect();
    const took = performance.now() - began;
    svg.remove();
    return took;
  },
  [BOXES, LINKS],
);
const SVG = 'svg[aria-label="drawing of links"]';
/** Looked at by the page itself: asking for roles and names would take longer than what is measured. */
const until = (condition, argument) => page.waitForFunction(condition, argument, { polling: 50, timeout: 120_000 });
const standing = (least) =>
  until(([svg, n]) => document.querySelectorAll(`${svg} > g[data-at]`).length >= n, [SVG, least]);
const measured = async (what, act) => {
  await stops();
  const began = performance.now();
  await act();
  const took = performance.now() - began;
  report(
    `map in the page: ${what}`,
    `plain shapes at once ${plain.toFixed(0)} ms`,
    `${(took / plain).toFixed(1)} ×`,
    `${took.toFixed(0)} ms, ${await stops()}`,
  );
};
await measured('the first picture', async () => {
  await page.goto(`${base}/map`);
  await standing(1);
});
await page.waitForTimeout(2000);
await measured('the whole', async () => {
  await page.evaluate(() => {
    const away = [...document.querySelectorAll('label')].find((one) => one.textContent.startsWith('links away'));
    const select = away.querySelector('select');
    select.value = '0';
    select.dispatchEvent(new Event('change', { bubbles: true }));
  });
  await standing(answer.boxes.length);
});
const places = () =>
  page.evaluate(() =>
    Object.fromEntries(
      [...document.querySelectorAll('svg[aria-label="drawing of links"] > g[data-at]')].map((box) => [
        box.querySelector('title')?.textContent.split(/[,;]/)[0],
        box.dataset.at.split(' ').map(Number),
      ]),
    ),
  );
const before = await places();
told = later();
await measured('a refresh', async () => {
  // another window is another question
  await page.evaluate(() => document.querySelector('button[title^="stop the moving screen"]').click());
  await until((svg) => document.querySelector(`${svg} g[aria-label^="new-0,"]`) !== null, SVG);
});
const now = await places();
const moved = Object.keys(before)
  .filter((key) => now[key])
  .map((key) => Math.hypot(now[key][0] - before[key][0], now[key][1] - before[key][1]));
console.log(
  `  of ${moved.length} boxes that stayed ${moved.filter((by) => by >= 40).length} moved by 40 px or more, the farthest by ${Math.max(...moved).toFixed(0)} px`,
);
await measured('searching', async () => {
  await page.focus('input[aria-label="find a box"]');
  for (const key of 'box-77') await page.keyboard.press(key);
  await until((svg) => document.querySelector(`${svg} > g[aria-hidden] text`) !== null, SVG);
});
await browser.close();
await end();
