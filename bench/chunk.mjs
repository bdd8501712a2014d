// Bytes a sample in a chunk against the 16 bytes of time and value, on mixed series; and packing speed against a plain copy.
import { decodeChunk, encodeChunk } from '../packages/core/dist/samples/index.js';
import { medianOf, report } from './measure.mjs';

const COUNT = 480;
const times = Array.from({ length: COUNT }, (_, i) => 1_700_000_000_000 + i * 15_000);
let seed = 42;
const roll = () => {
  seed = (seed * 16807) % 2147483647;
  return seed / 2147483647;
};
let cpu = 1000;
let memory = 3e8;
const kinds = {
  'constant gauge': () => 5,
  'CPU seconds, six decimals': () => {
    cpu += roll() * 15;
    return Number(cpu.toFixed(6));
  },
  'memory in pages': () => {
    memory += Math.floor((roll() - 0.5) * 200) * 4096;
    return memory;
  },
  'whole counts': (i) => i * 3 + Math.floor(roll() * 2),
};
for (const [name, next] of Object.entries(kinds)) {
  const values = times.map((_, i) => next(i));
  const packed = encodeChunk({ times, values });
  const [encode, decode] = medianOf(
    9,
    () => encodeChunk({ times, values }),
    () => decodeChunk(packed),
  );
  report(
    `chunk, ${name}`,
    '16 B a sample',
    `${((16 * COUNT) / packed.length).toFixed(1)} × less`,
    `${(packed.length / COUNT).toFixed(2)} B a sample; ${(COUNT / encode / 1000).toFixed(1)} M/s in, ${(COUNT / decode / 1000).toFixed(1)} M/s out`,
  );
}

// the mixture that design/storage.md was measured on: constants, gauges of two places, pages, busy and idle counters, seconds
const SERIES = 400;
const gauss = () => Math.sqrt(-2 * Math.log(roll() || 1e-9)) * Math.cos(2 * Math.PI * roll());
const mixed = Array.from({ length: SERIES }, (_, i) => {
  const share = i / SERIES;
  const base = roll() * 100;
  let now = share < 0.25 ? Math.floor(roll() * 1000) : share >= 0.55 ? Math.floor(roll() * 1e7) : 0;
  return times.map(() => {
    if (share < 0.25) return now;
    if (share < 0.45) return Math.round((base + gauss() * 2) * 100) / 100;
    if (share < 0.55) return Math.round((base * 1e7 + gauss() * 1e6) / 4096) * 4096;
    if (share < 0.8) now += Math.max(0, Math.round(base * (1 + 0.3 * gauss())));
    else if (share < 0.95) now += roll() < 0.02 ? 1 : 0;
    else now = Math.round((now + roll() * 3) * 1e6) / 1e6;
    return now;
  });
});
const chunks = mixed.map((values) => encodeChunk({ times, values }));
const bytes = chunks.reduce((sum, chunk) => sum + chunk.length, 0);
const [encode, decode] = medianOf(
  5,
  () => {
    for (const values of mixed) encodeChunk({ times, values });
  },
  () => {
    for (const chunk of chunks) decodeChunk(chunk);
  },
);
const samples = SERIES * COUNT;
report(
  'chunk, mixed',
  '16 B a sample',
  `${((16 * samples) / bytes).toFixed(1)} × less`,
  `${(bytes / samples).toFixed(2)} B a sample; ${(samples / encode / 1000).toFixed(1)} M/s in, ${(samples / decode / 1000).toFixed(1)} M/s out`,
);
