import { expect, test } from '@playwright/test';
import { noSeriousTrouble, signIn } from './state.ts';

test('Sources: a past is brought in as a file, a wrong one says where it is wrong, and the audit tells of both', async ({
  page,
}) => {
  await signIn(page, 'maren', '/sources');
  await page.getByRole('button', { name: 'import a file' }).click();
  await page.getByLabel('Cluster', { exact: true }).selectOption('seaward');
  await page.getByLabel('Endpoint of the node').selectOption('seaward-03');
  const then = Math.floor(Date.now() / 1000) - 7 * 86_400;
  const page1 = `# TYPE berths_taken gauge\nberths_taken 4 ${then}\nberths_taken 5 ${then + 60}\nberths_taken 6 ${then + 120}\n# EOF\n`;
  const file = (text: string) => ({ name: 'past.txt', mimeType: 'text/plain', buffer: Buffer.from(text) });
  await page.getByLabel('File', { exact: true }).setInputFiles(file(page1));
  await page.getByRole('button', { name: 'import', exact: true }).click();
  const imports = page.getByRole('region', { name: 'history imports' });
  await expect(imports.getByRole('row', { name: /seaward › seaward-03 .* maren done 3 samples/ })).toBeVisible();

  // the same again changes nothing; a torn one is refused, and the form keeps what was chosen
  for (const [text, words] of [
    [page1, /maren done 0 samples, 3 known already/],
    [page1.slice(0, -6), /maren failed 0 samples The page was refused: the page ends without “# EOF”/],
    [
      page1.replace('5 ', 'five '),
      /maren done 0 samples, 2 known already, 1 left out Line 3, column 14: “five” is not a number/,
    ],
  ] as const) {
    await page.getByRole('button', { name: 'import a file' }).click();
    await page.getByLabel('Cluster', { exact: true }).selectOption('seaward');
    await page.getByLabel('Endpoint of the node').selectOption('seaward-03');
    await page.getByLabel('File', { exact: true }).setInputFiles(file(text));
    await page.getByRole('button', { name: 'import', exact: true }).click();
    await expect(imports.getByRole('row', { name: words })).toBeVisible();
  }
  await expect(page.getByRole('region', { name: 'store' })).toContainText('What was read is stored.');
  await noSeriousTrouble(page);

  await page.getByRole('link', { name: 'Admin' }).click();
  await page.getByRole('link', { name: 'Audit' }).click();
  await page.getByLabel('search the audit log').fill('import');
  await expect(
    page.getByRole('row', { name: /maren import history samples seaward seaward-03 done/ }).first(),
  ).toBeVisible();
  await expect(
    page.getByRole('row', { name: /Zetopsis import: failed samples of seaward › seaward-03/ }),
  ).toBeVisible();
});
