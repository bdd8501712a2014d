// Numbers from a seed, and how texts, bytes and values are bent with them. The same seed bends the same way.
export function randomFrom(seed) {
  let state = seed >>> 0;
  const next = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
  const below = (count) => Math.floor(next() * count);
  const pick = (list) => list[below(list.length)];
  const chance = (share) => next() < share;
  return { next, below, pick, chance };
}

const NUMBERS = [
  0,
  -0,
  -1,
  1,
  0.1,
  1e308,
  -1e308,
  1e-320,
  2 ** 31,
  2 ** 53,
  -(2 ** 63),
  Number.NaN,
  Number.POSITIVE_INFINITY,
];
const TEXTS = [
  '',
  ' ',
  '\u0000',
  '\uD800',
  '..',
  '../../etc',
  '%',
  "'; drop table person; --",
  '<script>',
  '__proto__',
  'constructor',
  'a'.repeat(5000),
  '*'.repeat(200),
  '{'.repeat(500),
  '(a+)+$',
  '9'.repeat(400),
  '1e999',
  'NaN',
  '2026-13-45T99:99:99Z',
  '\n',
  '🚢',
  'https://[::1]:1/',
  'null',
];

export function bend(random) {
  const { below, pick, chance } = random;
  const strange = () => pick([pick(NUMBERS), pick(TEXTS), null, true, [], {}, [[[[]]]], { a: { b: {} } }, undefined]);
  const text = (own) => {
    if (own.length === 0 || chance(0.3)) return pick(TEXTS);
    const at = below(own.length);
    const end = at + below(Math.min(40, own.length - at) + 1);
    switch (below(6)) {
      case 0:
        return own.slice(0, at);
      case 1:
        return own.slice(0, at) + pick(TEXTS).slice(0, 300) + own.slice(at);
      case 2:
        return own.slice(0, at) + own.slice(end);
      case 3:
        return own.slice(0, at) + own.slice(at, end).repeat(1 + below(50)) + own.slice(end);
      case 4:
        return own.slice(0, at) + String.fromCharCode(below(0x300)) + own.slice(at + 1);
      default:
        return own.slice(end) + own.slice(0, end);
    }
  };
  const bytes = (own) => {
    const out = Buffer.from(own);
    if (out.length === 0) return Buffer.from([below(256)]);
    switch (below(4)) {
      case 0:
        return out.subarray(0, below(out.length));
      case 1:
        for (let i = 0; i <= below(8); i++) out[below(out.length)] = below(256);
        return out;
      case 2: {
        const at = below(out.length);
        return Buffer.concat([out.subarray(0, at), Buffer.alloc(below(64), below(256)), out.subarray(at)]);
      }
      default: {
        const at = below(out.length);
        return Buffer.concat([out.subarray(at), out.subarray(0, at), out.subarray(at)]);
      }
    }
  };
  /**
   * A copy in which some values are others; `share` of them. One list of it at most is made longer: lists within lists would
   * multiply to millions of things, which nobody can send, since each costs bytes.
   */
  let mayGrow = false;
  const value = (own, share = 0.05, depth = 0) => {
    if (depth === 0) mayGrow = true;
    if (chance(share)) return typeof own === 'string' ? text(own) : strange();
    if (depth > 40 || own === null || typeof own !== 'object') return own;
    if (Array.isArray(own)) {
      const list = own.map((one) => value(one, share, depth + 1));
      if (!mayGrow || list.length === 0 || !chance(share / 2)) return list;
      mayGrow = false;
      for (let i = below(300); i > 0; i--) list.push(pick(list));
      return list;
    }
    const out = {};
    for (const [key, one] of Object.entries(own)) {
      if (chance(share / 4)) continue;
      out[chance(share / 8) ? text(key) : key] = value(one, share, depth + 1);
    }
    return out;
  };
  return { text, bytes, value, strange };
}
