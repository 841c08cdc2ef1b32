import { spawnSync } from "node:child_process";
import { createReadStream, mkdirSync, rmSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import Papa from "papaparse";
import { openDatabase } from "@/db/client";
import { BENCH_HEADINGS, writeBenchFeed } from "./feed";
import { figure, type Figure } from "./measure";

const ROWS_A_STATEMENT = 1000;
const ROUNDS = 3;

/** The floor: parse the file and nothing else; then insert the very same rows and nothing else, with the same client. */
async function floor(file: string, folder: string): Promise<{ parse: number; insert: number }> {
  const start = performance.now();
  const rows: string[][] = [];
  await new Promise<void>((resolve, reject) => {
    Papa.parse<string[]>(createReadStream(file, "utf8") as unknown as NodeJS.ReadableStream, {
      delimiter: ",",
      skipEmptyLines: "greedy",
      chunk: ({ data }) => {
        for (const row of data) rows.push(row);
      },
      complete: () => resolve(),
      error: reject,
    });
  });
  const parse = performance.now() - start;
  rows.shift();
  const db = await openDatabase(`file:${path.join(folder, "floor.db")}`);
  await db.$client.execute(`CREATE TABLE bare (${BENCH_HEADINGS.map((name) => `"${name}" TEXT`).join(", ")})`);
  const values = BENCH_HEADINGS.map((_, i) => `value ->> ${i}`).join(", ");
  const began = performance.now();
  for (let from = 0; from < rows.length; from += ROWS_A_STATEMENT) {
    await db.$client.execute({
      sql: `INSERT INTO bare SELECT ${values} FROM json_each(?)`,
      args: [JSON.stringify(rows.slice(from, from + ROWS_A_STATEMENT))],
    });
  }
  const insert = performance.now() - began;
  db.$client.close();
  return { parse, insert };
}

/** Imports in a process of its own, so that its memory is its own. */
function importIn(folder: string, file: string): { ms: number; mb: number; result: Record<string, number> } {
  const script = path.join(path.dirname(fileURLToPath(import.meta.url)), "import-once.ts");
  const done = spawnSync(process.execPath, ["--import", "tsx", script, file], {
    env: { ...process.env, HOTSHELF_DATA_DIR: path.join(folder, "data"), LOG_LEVEL: "warn" },
    encoding: "utf8",
    stdio: ["ignore", "pipe", "inherit"],
  });
  return JSON.parse(done.stdout) as { ms: number; mb: number; result: Record<string, number> };
}

export async function benchImport(
  folder: string,
  rows: number,
  label: string,
): Promise<{ figures: Figure[]; data: string }> {
  const own = path.join(folder, `import-${label}`);
  mkdirSync(own, { recursive: true });
  const first = path.join(own, "first.csv");
  const second = path.join(own, "second.csv");
  await writeBenchFeed(first, rows);
  await writeBenchFeed(second, rows, 100);
  // The machine is shared, so each is done a few times in turn and its best time counts.
  const rounds = rows > 200_000 ? 1 : ROUNDS;
  const bares: Awaited<ReturnType<typeof floor>>[] = [];
  const imports: ReturnType<typeof importIn>[] = [];
  const refreshes: ReturnType<typeof importIn>[] = [];
  for (let round = 0; round < rounds; round++) {
    rmSync(path.join(own, "data"), { recursive: true, force: true });
    bares.push(await floor(first, own));
    imports.push(importIn(own, first));
    refreshes.push(importIn(own, second));
    rmSync(path.join(own, "floor.db"), { force: true });
  }
  const bare = {
    parse: Math.min(...bares.map(({ parse }) => parse)),
    insert: Math.min(...bares.map(({ insert }) => insert)),
  };
  const best = (runs: ReturnType<typeof importIn>[]) => runs.reduce((a, b) => (b.ms < a.ms ? b : a));
  const imported = best(imports);
  const refreshed = best(refreshes);
  const floorText = `parse ${bare.parse.toFixed(0)} + insert ${bare.insert.toFixed(0)}`;
  return {
    data: path.join(own, "data"),
    figures: [
      figure(
        "import a CSV feed",
        label,
        imported.ms,
        floorText,
        bare.parse + bare.insert,
        "at most 2.0, 600 MB",
        `${imported.mb.toFixed(0)} MB; ${imported.result["stored"]} stored`,
      ),
      figure(
        "refresh, 1 % changed",
        label,
        refreshed.ms,
        "the first import",
        imported.ms,
        "at most 0.5",
        `${refreshed.mb.toFixed(0)} MB; ${refreshed.result["changed"]} changed`,
      ),
    ],
  };
}
