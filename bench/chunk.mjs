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
