// npm run wordings -- FILE: reads a file of log lines and prints each with the number of its wording, then the wordings.
import { createReadStream } from 'node:fs';
import { createInterface } from 'node:readline';
import { nothingMasked, partLine, Wordings, wordsOf } from '../packages/core/dist/lines/index.js';

const [file] = process.argv.slice(2);
if (file === undefined) {
  console.error('npm run wordings -- FILE (- for standard input)');
  process.exit(2);
}
const wordings = new Wordings();
const given = [];
for await (const text of createInterface({ input: file === '-' ? process.stdin : createReadStream(file) })) {
  const line = partLine({ at: 0, severity: 0, text, fields: [], traceId: '', spanId: '' }, nothingMasked());
  const words = wordsOf(line.text === '' ? line.fields.map(([name]) => name).join(' ') : line.text);
  given.push({ number: wordings.numberOf(words), text });
}
// numbers that turned out to be one are told by the one that stays
for (const { number, text } of given) console.log(`${wordings.standingOf(number)}\t${text}`);
console.error(
  `${new Set(given.map(({ number }) => wordings.standingOf(number))).size} wordings of ${given.length} lines`,
);
for (const number of [...new Set(given.map((one) => wordings.standingOf(one.number)))].sort((a, b) => a - b))
  console.error(`${number}\t${wordings.textOf(number) ?? 'other'}`);
