import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { benchImport } from "./import";
import { asTable, type Figure } from "./measure";

const only = process.argv
  .find((argument) => argument.startsWith("--only="))
  ?.slice(7)
  .split(",");
const wants = (name: string) => !only || only.includes(name);
const sizes: [rows: number, label: string][] = [
  [10_000, "10k"],
  [100_000, "100k"],
  ...(process.argv.includes("--million") ? [[1_000_000, "1M"] as [number, string]] : []),
];
const folder = mkdtempSync(path.join(tmpdir(), "hot-shelf-bench-"));
const figures: Figure[] = [];
try {
  for (const [rows, label] of only?.every((name) => name === "negatives") ? [] : sizes) {
    const { figures: imports, data } = await benchImport(folder, rows, label);
    if (wants("import")) figures.push(...imports);
    process.env["HOTSHELF_DATA_DIR"] = data;
    if (rows <= 100_000) {
      const { benchCore } = await import("./core");
      figures.push(...(await benchCore(data, label, wants)));
    }
  }
  if (wants("market")) {
    const { benchMarket } = await import("./market");
    figures.push(...(await benchMarket(folder)));
  }
  if (wants("negatives")) {
    const { benchNegatives } = await import("./negatives");
    figures.push(...(await benchNegatives()));
  }
  if (wants("calibration")) {
    const { benchCalibration } = await import("./calibration");
    figures.push(...benchCalibration());
  }
  if (wants("latency")) {
    const { benchLatency } = await import("./latency");
    figures.push(...(await benchLatency(folder)));
  }
  if (wants("views")) {
    const { benchViews } = await import("./views");
    figures.push(...(await benchViews(folder)));
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
const table = asTable(figures);
console.log(`\n${table}\n`);
mkdirSync("bench/out", { recursive: true });
writeFileSync("bench/out/figures.json", JSON.stringify(figures, null, 1));
writeFileSync("bench/out/figures.md", table);
process.exit(0);
