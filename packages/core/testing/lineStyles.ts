/** Lines of three programs that were written beforehand, each with what wrote it: the kind is the truth that wordings are held against. */
interface StyledLine {
  readonly kind: string;
  readonly text: string;
}
/** A small generator of its own: the same lines each time. */
function dice(seed: number): (below: number) => number {
  let state = seed;
  return (below) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return Math.floor((state / 2 ** 32) * below);
  };
}
const SHIPS = 'Kelp Orca Tern Gull Eider Skua Auk Puffin Heron Crane Dunlin Plover Petrel Gannet Shag Smew Scaup'.split(
  ' ',
);
const PLACES = 'north south east west inner outer upper lower old new fish coal grain'.split(' ');

function lines(seed: number, count: number, of: Readonly<Record<string, (n: (below: number) => number) => string>>) {
  const n = dice(seed);
  const kinds = Object.keys(of);
  return Array.from({ length: count }, (): StyledLine => {
    const kind = kinds[n(kinds.length)]!;
    return { kind, text: of[kind]!(n) };
  });
}
const ship = (n: (below: number) => number) => SHIPS[n(SHIPS.length)]!;
const place = (n: (below: number) => number) => PLACES[n(PLACES.length)]!;
const hex = (n: (below: number) => number, length: number) =>
  Array.from({ length }, () => '0123456789abcdef'[n(16)]).join('');
const clock = (n: (below: number) => number) => `2026-11-2${n(9)}T0${n(9)}:1${n(9)}:2${n(9)}.${100 + n(900)}Z`;

export const LINE_STYLES = [
  {
    name: 'an application server with time, level and thread',
    lines: lines(7, 2000, {
      booked: (n) =>
        `${clock(n)} INFO [pool-${n(9)}-thread-${n(9)}] Booked berth ${n(40)} for ${ship(n)} in ${n(900)} ms`,
      slow: (n) => `${clock(n)} WARN [pool-${n(9)}-thread-${n(9)}] Slow query took ${n(9000)}ms: "select ${place(n)}"`,
      taken: (n) => `${clock(n)} ERROR [main] Berth ${n(40)} is taken by ${ship(n)} until ${clock(n)}`,
      retry: (n) =>
        `${clock(n)} WARN [main] Retry ${n(5)} of 5 after ${n(900)}ms: connection to 10.0.${n(255)}.${n(255)}:5432 refused`,
      up: (n) => `${clock(n)} INFO [main] Started in ${n(90)}.${n(9)} seconds`,
      pool: (n) => `${clock(n)} DEBUG [main] Pool has ${n(20)} of 20 connections in use, ${n(9)} waiting`,
      failed: (n) =>
        `${clock(n)} ERROR [main] Request ${hex(n, 16)} failed\n  at harbour.Berths.book(Berths.java:${n(900)})\nCaused by: harbour.TideTooLowException: ${n(9)} m`,
      closed: (n) =>
        `${clock(n)} ERROR [main] Request ${hex(n, 16)} failed\n  at x\nharbour.GateClosedError: ${place(n)}`,
      swept: (n) => `${clock(n)} INFO [sweeper] Removed ${n(400)} sessions older than ${n(60)} minutes`,
      cache: (n) => `${clock(n)} DEBUG [main] Cache miss for key quay:${n(900)}:${hex(n, 8)}`,
    }),
  },
  {
    name: 'a way in with requests',
    lines: lines(11, 2000, {
      page: (n) => `10.1.${n(255)}.${n(255)} "GET /berths/${n(900)}" 200 ${n(9000)} ${n(900)}ms`,
      turned: (n) => `10.1.${n(255)}.${n(255)} turned away: ${n(900)} requests in ${n(60)} s`,
      upstream: (n) => `upstream tides-${hex(n, 9)}-${hex(n, 5)} answered nothing within ${n(9000)} ms`,
      certificate: (n) => `certificate of ${place(n)}.harbour.example expires in ${n(30)} days`,
      reload: (n) => `configuration reloaded: ${n(90)} routes, ${n(9)} of them new`,
      drained: (n) => `worker ${n(9000)} drained, ${n(40)} requests left`,
      body: (n) => `client closed the connection after ${n(9000)} bytes of /manifests/${hex(n, 12)}`,
      health: (n) => `backend ${place(n)} is ${n(2) ? 'healthy' : 'healthy'} again after ${n(90)}s`,
    }),
  },
  {
    name: 'an agent of a machine',
    lines: lines(13, 2000, {
      started: (n) => `started container ${hex(n, 64)} of pod ${place(n)}-${hex(n, 9)}`,
      pulled: (n) => `pulled image in ${n(90)}.${n(999)}s (${n(900)} MiB)`,
      volume: (n) => `volume pvc-${hex(n, 8)}-${hex(n, 4)} mounted at /var/lib/volumes/${n(90)}`,
      probe: (n) => `probe of ${ship(n)} failed: answered ${500 + n(9)}`,
      evicted: (n) => `evicting pod: memory ${n(99)}% of ${n(64)} GiB, threshold 95%`,
      clockSkew: (n) => `clock is ${n(900)} ms behind, stepping`,
      disk: (n) => `disk /dev/sd${'abcd'[n(4)]}${n(9)}: ${n(99)}% used`,
      lease: (n) => `lease renewed by ${ship(n)} for ${n(60)}s`,
      oom: (n) => `memory cgroup out of memory: killed process ${n(90000)} (worker) total-vm:${n(900000)}kB`,
    }),
  },
] as const;

/** The share of lines whose number stands for their kind alone, and for all of it. */
export function rightShare(lines: readonly Pick<StyledLine, 'kind'>[], numbers: readonly number[]): number {
  const kindsOf = new Map<number, Set<string>>();
  const numbersOf = new Map<string, Set<number>>();
  lines.forEach(({ kind }, i) => {
    const number = numbers[i]!;
    kindsOf.set(number, (kindsOf.get(number) ?? new Set<string>()).add(kind));
    numbersOf.set(kind, (numbersOf.get(kind) ?? new Set<number>()).add(number));
  });
  const right = lines.filter(({ kind }, i) => kindsOf.get(numbers[i]!)!.size === 1 && numbersOf.get(kind)!.size === 1);
  return right.length / lines.length;
}
