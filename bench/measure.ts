/** One measured figure beside its yardstick in the same run. */
export interface Figure {
  work: string;
  size: string;
  ms: number;
  yardstick: string;
  yardstickMs: number | null;
  ratio: number | null;
  must: string;
  more?: string;
}

/** Median time in ms of `rounds` runs. */
export async function timed(rounds: number, work: () => unknown): Promise<number> {
  const times: number[] = [];
  for (let i = 0; i < rounds; i++) {
    global.gc?.();
    const start = performance.now();
    await work();
    times.push(performance.now() - start);
  }
  times.sort((a, b) => a - b);
  return times[Math.floor(times.length / 2)]!;
}

export function figure(
  work: string,
  size: string,
  ms: number,
  yardstick: string,
  yardstickMs: number | null,
  must: string,
  more = "",
): Figure {
  return { work, size, ms, yardstick, yardstickMs, ratio: yardstickMs ? ms / yardstickMs : null, must, more };
}

/** The figures as a table in Markdown. */
export function asTable(figures: Figure[]): string {
  const lines = figures.map((f) =>
    [
      f.work,
      f.size,
      `${f.ms.toFixed(0)} ms`,
      f.yardstick,
      f.yardstickMs ? `${f.yardstickMs.toFixed(0)} ms` : "–",
      f.ratio ? f.ratio.toFixed(2) : "–",
      f.must,
      f.more ?? "",
    ].join(" | "),
  );
  return [
    "work | size | here | yardstick | its time | ratio | must reach | also",
    "--- | --- | ---: | --- | ---: | ---: | --- | ---",
    ...lines,
  ]
    .map((line) => `| ${line} |`)
    .join("\n");
}
