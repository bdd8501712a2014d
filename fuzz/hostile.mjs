// The world outside, out of its mind: a cluster API and pages that hand on what the stand-in says, bent. In a process of its
// own; forked with {seed, card, port, node}, sends its addresses. What it was asked and how it answered is counted.
import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import { createServer as createPlain } from 'node:http';
import { createServer, request } from 'node:https';
import { bend, randomFrom } from './random.mjs';

const { seed, api, credentialsFile, pages } = JSON.parse(process.argv[2]);
const random = randomFrom(seed);
const { below, pick, chance } = random;
const bent = bend(random);
const credentials = JSON.parse(readFileSync(credentialsFile, 'utf8'));

const fetched = (url, token) =>
  new Promise((done, fail) => {
    const asked = request(url, { ca: credentials.authority, headers: { authorization: token } }, (answer) => {
      const parts = [];
      answer.on('data', (part) => parts.push(part));
      answer.on('end', () =>
        done({ status: answer.statusCode, type: answer.headers['content-type'], body: Buffer.concat(parts) }),
      );
      answer.on('error', fail);
    });
    asked.setTimeout(5000, () => asked.destroy(new Error('too slow')));
    asked.on('error', fail);
    asked.end();
  });
const json = (text) => {
  try {
    return JSON.parse(text);
  } catch {
    return {};
  }
};
/** Answers in one of the ways that somebody else's program may. */
function answer(response, { status, type, body }) {
  const way = random.next();
  if (way < 0.04) return response.destroy();
  if (way < 0.06) return; // never
  const code = chance(0.05) ? pick([200, 204, 301, 400, 401, 403, 404, 410, 418, 429, 500, 503]) : status;
  const of = chance(0.05)
    ? pick(['text/html', 'application/json', '', 'x'.repeat(2000), 'text/plain; version=9'])
    : (type ?? 'text/plain');
  response.writeHead(code, { 'content-type': of });
  if (way < 0.1) {
    // drop by drop, and never done
    let at = 0;
    const drip = setInterval(
      () => (response.destroyed ? clearInterval(drip) : response.write(body.subarray(at, ++at))),
      50,
    );
    response.on('close', () => clearInterval(drip));
    return;
  }
  if (way < 0.13) {
    response.write(body.subarray(0, below(body.length + 1)));
    return response.destroy();
  }
  response.end(body);
}
const apiServer = createServer({ key: credentials.key, cert: credentials.certificate }, async (asked, response) => {
  response.on('error', () => undefined);
  const url = new URL(asked.url, api);
  const token = asked.headers.authorization ?? '';
  try {
    if (url.searchParams.get('watch') === 'true') {
      // a list of the same kind, told again as changes
      url.search = '?limit=40';
      const { items = [] } = json((await fetched(url, token)).body.toString());
      response.writeHead(200, { 'content-type': 'application/json' });
      let left = 5 + below(60);
      const tell = setInterval(() => {
        if (response.destroyed || left-- === 0) {
          clearInterval(tell);
          if (chance(0.5)) response.destroy();
          else response.end();
          return;
        }
        const type = pick(['ADDED', 'MODIFIED', 'DELETED', 'BOOKMARK', 'ERROR', 'MODIFIED', 'ADDED', 'NEWS']);
        const line = JSON.stringify({ type, object: bent.value(pick(items) ?? {}, pick([0, 0.01, 0.05, 0.3])) });
        response.write(`${chance(0.05) ? bent.text(line) : line}\n`);
      }, 30);
      return;
    }
    const own = await fetched(url, token);
    const share = pick([0, 0, 0.002, 0.02, 0.1]);
    const body =
      share === 0 ? own.body : Buffer.from(JSON.stringify(bent.value(json(own.body.toString()), share)) ?? '');
    answer(response, { ...own, body: chance(0.03) ? bent.bytes(body) : body });
  } catch {
    response.destroy();
  }
});
const page = createPlain((_asked, response) => {
  response.on('error', () => undefined);
  const text = pick(pages);
  const lines = text.split('\n');
  for (let i = below(20); i > 0; i--) lines[below(lines.length)] = bent.text(pick(lines));
  if (chance(0.05))
    for (let i = below(3000); i > 0; i--) lines.push(`lamp_${random.below(1e6)}{lens="${bent.text('upper')}"} ${i}`);
  const body = Buffer.from(lines.join('\n'));
  answer(response, {
    status: 200,
    type: pick(['application/openmetrics-text; version=1.0.0', 'text/plain']),
    body: chance(0.1) ? bent.bytes(body) : body,
  });
});
apiServer.listen(0, '127.0.0.1');
page.listen(0, '127.0.0.1');
await Promise.all([once(apiServer, 'listening'), once(page, 'listening')]);
process.send({ api: `https://127.0.0.1:${apiServer.address().port}`, page: `http://127.0.0.1:${page.address().port}` });
process.on('disconnect', () => process.exit(0));
process.on('uncaughtException', () => undefined); // it is out of its mind, and goes on
