import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { benchImport } from "./import";
import { asTable, type Figure } from "./measure";

const only = process.argv
  .find((argument) => argument.startsWith("--only="))
  ?.slice(7)
  .split(",");
/** Parts that need no catalogue of the core. */
const ALONE = [
  "copy",
  "market",
  "negatives",
  "calibration",
  "policies",
  "decisions",
  "stocktake",
  "latency",
  "views",
  "idle",
];
const wants = (name: string) => !only || only.includes(name);
const sizes: [rows: number, label: string][] = [
  [10_000, "10k"],
  [100_000, "100k"],
  ...(process.argv.includes("--million") ? [[1_000_000, "1M"] as [number, string]] : []),
];
mkdirSync("bench/out", { recursive: true });
const folder = mkdtempSync(path.join(tmpdir(), "hot-shelf-bench-"));
const figures: Figure[] = [];
/** What broke off; the parts after it are measured all the same. */
const broken: string[] = [];
async function part(name: string, measure: () => Promise<Figure[]> | Figure[], isWanted = wants(name)): Promise<void> {
  if (!isWanted) return;
  try {
    figures.push(...(await measure()));
    keep();
  } catch (error) {
    broken.push(`${name}: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}`);
  }
}

/** Keeps what has been measured so far, whatever becomes of the rest. */
function keep(): string {
  const table = asTable(figures);
  writeFileSync("bench/out/figures.json", JSON.stringify(figures, null, 1));
  writeFileSync("bench/out/figures.md", table);
  return table;
}

const isOfCatalogue = !only || only.some((name) => !ALONE.includes(name));
for (const [rows, label] of isOfCatalogue ? sizes : []) {
  await part(
    `catalogue of ${label}`,
    async () => {
      const { figures: imports, data } = await benchImport(folder, rows, label);
      process.env["HOTSHELF_DATA_DIR"] = data;
      const core = rows <= 100_000 ? await (await import("./core")).benchCore(data, label, wants) : [];
      return [...(wants("import") ? imports : []), ...core];
    },
    true,
  );
}
await part("copy", async () => (await import("./copy-speed")).benchCopy());
await part("market", async () => (await import("./market")).benchMarket(folder));
await part("negatives", async () => (await import("./negatives")).benchNegatives());
await part("calibration", async () => (await import("./calibration")).benchCalibration());
await part("policies", async () => (await import("./policies")).benchPolicies());
await part("decisions", async () => (await import("./decisions")).benchDecisions());
await part("stocktake", async () => (await import("./stocktake")).benchStocktake());
await part("latency", async () => (await import("./latency")).benchLatency(folder));
await part("views", async () => (await import("./views")).benchViews(folder));
await part("idle", async () => (await import("./idle")).benchIdle(folder));
rmSync(folder, { recursive: true, force: true });
console.log(`\n${keep()}\n`);
for (const one of broken) console.error(`Not measured: ${one}`);
process.exit(broken.length > 0 ? 1 : 0);
