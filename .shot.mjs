import { readFileSync } from 'node:fs';
import { chromium } from '@playwright/test';
const { address } = JSON.parse(readFileSync('/work/main/.zetopsis/running.json', 'utf8'));
const [,, path, name, who='maren', size='1280x800', look='light', ...acts] = process.argv;
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox','--disable-gpu','--disable-quic','--no-first-run','--disable-background-networking','--disable-component-update','--disable-sync'] });
const [width,height]=size.split('x').map(Number);
const context = await browser.newContext({ viewport: { width, height }, colorScheme: look });
const page = await context.newPage();
page.on('console', (m) => m.type()==='error' && console.log('console:', m.text().slice(0,300)));
page.on('pageerror', (e) => console.log('pageerror:', String(e).slice(0,300)));
await page.goto(address + path);
await page.getByRole('button', { name: `sign in as ${who}` }).click();
await page.getByRole('navigation', { name: 'places' }).waitFor();
await page.getByTestId('data-age').filter({ hasText: /newest|nothing/ }).waitFor({timeout: 20000}).catch(()=>console.log('no age'));
await page.waitForLoadState('networkidle', { timeout: 5000 }).catch(() => undefined);
for (const act of acts) {
  if (act.startsWith('click:')) await page.getByText(act.slice(6), {exact:false}).first().click();
  else if (act.startsWith('button:')) await page.getByRole('button',{name:act.slice(7)}).first().click();
  else if (act.startsWith('key:')) await page.keyboard.press(act.slice(4));
  else if (act.startsWith('scroll:')) await page.locator('aside .overflow-y-auto').evaluate((e,y)=>e.scrollTop=y, Number(act.slice(7)));
  else if (act.startsWith('js:')) console.log(await page.evaluate(act.slice(3)));
  await page.waitForTimeout(900);
}
await page.waitForTimeout(600);
await page.screenshot({ path: `/tmp/shots/${name}.png` });
await browser.close();
