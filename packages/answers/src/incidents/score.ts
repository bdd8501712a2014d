import { endKey, type LinkState, type Side } from '@zetopsis/core/links';
import { toTheEnd } from '@zetopsis/core/steps';
import { seeded } from '@zetopsis/core/trend';
import { type MapKnowledge, mapBySteps } from '../map/index.ts';
import { endIn, endOfMinute, INCIDENTS, type Incident, type MadeWorld, makeWorld, Simulation } from './world.ts';

const EVERYBODY: MapKnowledge = { sees: () => true, teamOf: () => null };
const MINUTES = 70;
/** Of what is asked less often than that nothing can be told within minutes. */
const LEAST = 8;
const STATES: Readonly<Record<Incident['kind'], readonly LinkState[]>> = {
  down: ['refused'],
  'closed way': ['refused'],
  cut: ['silent'],
  failing: ['failing'],
  slow: ['slow'],
  'slow way': ['slow'],
  // some attempts end in nothing: those that wait for it fail
  'lossy way': ['failing'],
  flood: ['flooded'],
};
const SIDE: Readonly<Record<Incident['kind'], Side>> = {
  down: 'answerer',
  'closed way': 'between',
  cut: 'caller',
  failing: 'answerer',
  slow: 'answerer',
  'slow way': 'between',
  'lossy way': 'between',
  flood: 'caller',
};
export interface Scored {
  readonly seed: number;
  readonly kind: Incident['kind'];
  readonly state: boolean;
  readonly side: boolean;
  /** Entries that are about something else. */
  readonly beside: number;
  /** What the first entry said. */
  readonly said: string;
}

/** An incident of a made-up world, and what the list of trouble says of it. Null: nothing in it is asked often enough. */
export function scoreIncident(seed: number): Scored | null {
  const world = makeWorld(seed);
  const incident = incidentIn(world, seed);
  if (incident === null) return null;
  const run = new Simulation(world, seed, incident).run(MINUTES);
  const { trouble, links } = toTheEnd(mapBySteps(run.readAt(MINUTES, endOfMinute(MINUTES), seed % 2 === 0), EVERYBODY));
  const [to, from] = [endKey(endIn(world, incident.to)), endKey(endIn(world, incident.from))];
  const whole = ['down', 'failing', 'slow'].includes(incident.kind);
  const isIt = (key: string) => {
    const link = links.find((one) => one.key === key);
    return link?.to === to && (whole || link.from === from);
  };
  const [first] = trouble;
  const state = links.find(({ key }) => key === first?.link)?.state ?? null;
  const right = first !== undefined && isIt(first.link) && state !== null && STATES[incident.kind].includes(state);
  // a way that only one goes cannot be told from the door that it leads to
  const alone = !links.some((link) => link.to === to && link.from !== from);
  const side =
    first?.side === SIDE[incident.kind] || (alone && incident.kind === 'closed way' && first?.side === 'answerer');
  return {
    seed,
    kind: incident.kind,
    state: right,
    side: right && side,
    beside: trouble.filter(({ link }) => !isIt(link)).length,
    said: first ? `${first.link}: ${state}, ${first.side}` : 'nothing',
  };
}
function incidentIn(world: MadeWorld, seed: number): Incident | null {
  const random = seeded(seed ^ 0x1ce);
  const kind = INCIDENTS[seed % INCIDENTS.length]!; // within its length
  const before = new Simulation(world, seed).run(10);
  const links = world.programs.flatMap(({ calls }, from) => calls.map(({ to }) => ({ from, to })));
  const busy = links.filter(({ from, to }) => before.rateOf(from, to) >= LEAST);
  const link = busy[Math.floor(random() * busy.length)];
  if (!link) return null;
  // silence has to outlast the pauses before it
  const ago = kind === 'cut' ? 20 + Math.floor(random() * 25) : 10 + Math.floor(random() * 35);
  const { from, to } = link;
  return {
    kind,
    from,
    to,
    begins: MINUTES - ago,
    usualSeconds: before.secondsOf(from, to),
    perMinute: before.rateOf(from, to),
  };
}

const NIGHT = 8 * 60;
/** A night in which nothing happens: what the list of trouble says in it, each five minutes. */
export function scoreNight(seed: number): readonly string[] {
  const world = makeWorld(seed, true);
  const run = new Simulation(world, seed).run(60 + NIGHT);
  const said = new Set<string>();
  for (let end = 60; end <= 60 + NIGHT; end += 5) {
    const { trouble, links } = toTheEnd(mapBySteps(run.readAt(end, endOfMinute(end), seed % 2 === 0), EVERYBODY));
    for (const { link } of trouble) said.add(`${link}: ${links.find(({ key }) => key === link)?.state}`);
  }
  return [...said];
}
