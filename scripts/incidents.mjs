// npm run incidents -- [HOW MANY] [FIRST SEED]: made-up incidents between made-up programs, and what the list of trouble says of each;
// then as many quiet nights. Ends with 1 where fewer states or sides are right, or more nights are disturbed, than is promised.
import { ensureBuild, ensureDependencies } from './machine.mjs';

ensureDependencies();
ensureBuild();
const { scoreIncident, scoreNight } = await import('../packages/answers/dist/incidents/index.js');

const [many = 100, first = 1] = process.argv.slice(2).map(Number);
const scored = [];
for (let seed = first; scored.length < many; seed++) {
  const one = scoreIncident(seed);
  if (one) scored.push(one);
}
const share = (part, whole) => `${part} of ${whole} (${((100 * part) / whole).toFixed(1)} %)`;
const count = (list, what) => list.filter((one) => one[what]).length;
for (const kind of [...new Set(scored.map((one) => one.kind))]) {
  const own = scored.filter((one) => one.kind === kind);
  const beside = own.reduce((sum, one) => sum + one.beside, 0);
  console.log(
    `${kind}: state ${share(count(own, 'state'), own.length)}, side ${share(count(own, 'side'), own.length)}, entries about something else ${beside}`,
  );
}
for (const { seed, kind, side, said } of scored) if (!side) console.log(`  seed ${seed}, ${kind}: ${said}`);
const nights = Array.from({ length: many }, (_, i) => ({ seed: first + i, said: scoreNight(first + i) }));
const disturbed = nights.filter(({ said }) => said.length > 0);
for (const { seed, said } of disturbed) console.log(`  night ${seed}: ${said.join('; ')}`);
const [state, side] = [count(scored, 'state'), count(scored, 'side')];
console.log(
  `right state ${share(state, many)}, right side ${share(side, many)}, entries about something else ${scored.reduce((sum, one) => sum + one.beside, 0)}, quiet nights with an entry ${share(disturbed.length, many)}`,
);
process.exit(state >= 0.95 * many && side >= 0.9 * many && disturbed.length <= 0.01 * many ? 0 : 1);
