// The mixture that design/storage.md was measured on: constants, gauges of two places, pages, busy and idle counters, seconds.
export function randomFrom(seed) {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}
export function mixedSeries(count, seed = 3) {
  const roll = randomFrom(seed);
  const gauss = () => Math.sqrt(-2 * Math.log(1 - roll())) * Math.cos(6.283185307179586 * roll());
  const kind = Uint8Array.from({ length: count }, () => {
    const share = roll();
    return share < 0.25 ? 0 : share < 0.45 ? 1 : share < 0.55 ? 2 : share < 0.8 ? 3 : share < 0.95 ? 4 : 5;
  });
  const base = Float64Array.from({ length: count }, () => roll() * 100);
  const now = Float64Array.from(kind, (of) =>
    of === 0 ? Math.floor(roll() * 1000) : of >= 3 ? Math.floor(roll() * 1e7) : 0,
  );
  return {
    cumulative: (i) => kind[i] >= 3,
    /** The next value of every series. */
    next() {
      for (let i = 0; i < count; i++) {
        if (kind[i] === 1) now[i] = Math.round((base[i] + gauss() * 2) * 100) / 100;
        else if (kind[i] === 2) now[i] = Math.round((base[i] * 1e7 + gauss() * 1e6) / 4096) * 4096;
        else if (kind[i] === 3) now[i] += Math.max(0, Math.round(base[i] * (1 + 0.3 * gauss())));
        else if (kind[i] === 4) now[i] += roll() < 0.02 ? 1 : 0;
        else if (kind[i] === 5) now[i] = Math.round((now[i] + roll() * 3) * 1e6) / 1e6;
      }
      return now.slice();
    },
  };
}
