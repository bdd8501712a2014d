/** Median of several runs of `work` in milliseconds, after a warm-up; pairs are measured in turn so that both see the same machine. */
export function medianOf(runs, ...works) {
  const times = works.map(() => []);
  for (const work of works) work();
  for (let run = 0; run < runs; run++) {
    works.forEach((work, i) => {
      const began = performance.now();
      work();
      times[i].push(performance.now() - began);
    });
  }
  return times.map((list) => list.sort((a, b) => a - b)[Math.floor(list.length / 2)]);
}

export function report(name, baseline, ratio, detail) {
  console.log(`${name.padEnd(38)} ${ratio.padStart(9)}  against ${baseline}; ${detail}`);
}
