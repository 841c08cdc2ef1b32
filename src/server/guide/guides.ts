import { readdir, readFile } from "node:fs/promises";
import path from "node:path";
import { readGuide, type Guide } from "@/core/guide/guide";

/** Where guides ship with the program; they are documents too. */
const FOLDER = path.join(/* turbopackIgnore: true */ process.cwd(), "docs/guide");

/** The order in which one does them for the first time; what is not named comes after. */
const ORDER = ["first-structure", "refresh", "weekly-moves", "harvest", "launch", "placement-review", "month-budget"];

let kept: Promise<Guide[]> | null = null;

/** All guides. They ship with the program, so they are read once. */
export function loadGuides(): Promise<Guide[]> {
  kept ??= readAll();
  // A failure is tried again.
  kept.catch(() => (kept = null));
  return kept;
}

async function readAll(): Promise<Guide[]> {
  const names = (await readdir(FOLDER)).filter((name) => name.endsWith(".md")).sort();
  const guides = await Promise.all(
    names.map(async (name) => readGuide(name.replace(/\.md$/, ""), await readFile(path.join(FOLDER, name), "utf8"))),
  );
  const rank = ({ key }: Guide) => (ORDER.includes(key) ? ORDER.indexOf(key) : ORDER.length);
  return guides.sort((a, b) => rank(a) - rank(b));
}
