import { readFileSync } from 'node:fs';
import { parseArgs } from 'node:util';

/** The command line's way to do something to a running stand-in world: the same acts as its page. */
const USAGE = `usage: npm run world -- ACT [name=value …]      such as  npm run world -- load namespace=ticketing name=seat-ledger factor=3
       npm run world                            lists the acts
  --card FILE   card.json of the stand-in world (default: that of npm start)`;

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { card: { type: 'string', default: '.zetopsis/demo/standin/card.json' }, help: { type: 'boolean' } },
});
if (values.help) {
  console.log(USAGE);
  process.exit(0);
}

function controlOf(file: string): string {
  try {
    return (JSON.parse(readFileSync(file, 'utf8')) as { control: string }).control; // the stand-in's own file
  } catch {
    console.error(`There is no stand-in world at ${file}: start it with npm start, or name its card.\n${USAGE}`);
    process.exit(2);
  }
}

const control = controlOf(values.card);
const [act, ...given] = positionals;
const failed = (error: unknown): never => {
  console.error(`The stand-in world does not answer at ${control}: ${String(error)}`);
  process.exit(1);
};
if (act === undefined) {
  const acts = (await (await fetch(`${control}/acts`).catch(failed)).json()) as {
    path: string;
    does: string;
    parameters: { name: string; example: string }[];
  }[];
  console.log(USAGE);
  for (const { path, does, parameters } of acts)
    console.log(
      `\n  ${path.slice(1)} ${parameters.map(({ name, example }) => `${name}=${example}`).join(' ')}\n      ${does}`,
    );
} else {
  const query = new URLSearchParams(given.map((pair) => pair.split(/=(.*)/s, 2) as [string, string]));
  const response = await fetch(`${control}/${act}?${query}`, { method: 'POST' }).catch(failed);
  const { problem } = (await response.json()) as { problem?: string };
  if (problem !== undefined) {
    console.error(problem);
    process.exit(1);
  }
  console.log(`done: ${act} ${given.join(' ')}`);
}
