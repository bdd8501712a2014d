import { type ByteReader, type ByteWriter, DamagedBytes } from './byteCursor.ts';

/**
 * u8 mode · times. Mode 0: f64 first, then delta of deltas as zigzag varints, a run of zeros as (0, run length). Mode 1:
 * f64 each, for times whose differences leave 2^53. There must be at least one.
 */
const zigzag = (value: number) => (value < 0 ? -value * 2 - 1 : value * 2);
const unzigzag = (value: number) => (value % 2 === 0 ? value / 2 : -(value + 1) / 2);

function deltasOfDeltas(times: ArrayLike<number>): number[] | null {
  const deltas: number[] = [];
  let before = times[0]!;
  let step = 0;
  if (!Number.isSafeInteger(before) || Object.is(before, -0)) return null;
  for (let i = 1; i < times.length; i++) {
    const time = times[i]!;
    const delta = time - before;
    const bend = delta - step;
    if (!Number.isSafeInteger(time) || !Number.isSafeInteger(delta) || !Number.isSafeInteger(zigzag(bend))) return null;
    deltas.push(bend === 0 ? 0 : bend);
    before = time;
    step = delta;
  }
  return deltas;
}

export function writeTimes(out: ByteWriter, times: ArrayLike<number>): void {
  const bends = deltasOfDeltas(times);
  out.byte(bends ? 0 : 1);
  if (!bends) {
    for (let i = 0; i < times.length; i++) out.double(times[i]!);
    return;
  }
  out.double(times[0]!);
  for (let i = 0; i < bends.length; ) {
    out.varint(zigzag(bends[i]!));
    if (bends[i] !== 0) {
      i++;
      continue;
    }
    let run = 1;
    while (bends[i + run] === 0) run++;
    out.varint(run);
    i += run;
  }
}

export function readTimes(input: ByteReader, times: Float64Array): void {
  const mode = input.byte();
  if (mode === 1) {
    for (let i = 0; i < times.length; i++) times[i] = input.double();
    return;
  }
  if (mode !== 0) throw new DamagedBytes(`time mode ${mode} is not known`);
  let time = input.double();
  let step = 0;
  times[0] = time;
  for (let i = 1; i < times.length; ) {
    const bend = unzigzag(input.varint());
    let run = bend === 0 ? input.varint() : 1;
    if (run < 1 || run > times.length - i) throw new DamagedBytes('a run is longer than the chunk');
    step += bend;
    for (; run > 0; run--) {
      time += step;
      times[i++] = time;
    }
  }
}

/** Leaves them unread. */
export function skipTimes(input: ByteReader, count: number): void {
  const mode = input.byte();
  if (mode === 1) {
    input.take(count * 8);
    return;
  }
  if (mode !== 0) throw new DamagedBytes(`time mode ${mode} is not known`);
  input.take(8);
  for (let i = 1; i < count; ) {
    const run = input.varint() === 0 ? input.varint() : 1;
    if (run < 1 || run > count - i) throw new DamagedBytes('a run is longer than the chunk');
    i += run;
  }
}
