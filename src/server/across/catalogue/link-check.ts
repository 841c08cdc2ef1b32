import { setTimeout as sleep } from "node:timers/promises";
import { sql } from "drizzle-orm";
import { z } from "zod";
import { checkPage, type CheckedItem, type LinkState } from "@/core/catalogue/check-page";
import { paidPrice } from "@/core/catalogue/margins";
import { cellText } from "@/core/kit/columns";
import { FailureError } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { linkChecks } from "@/db/schema";
import { enqueueJob, listJobs, type JobView } from "../../jobs/jobs";
import type { JobContext, JobHandler } from "../../jobs/work";
import { fetchSafely } from "../../outside/fetch-safely";
import { loadWindow } from "../../results/load";
import { windowOfDays } from "../../results/window";
import { settings } from "../../settings";
import { noteChange } from "../../workspaces";
import { loadCatalogue } from "../../catalogue/load";

export const linkCheckSchema = z.object({
  /** At most this many items, those with the most spend first. */
  most: z.number().int().min(1).max(100_000).default(500),
});

/** Pages read at a time, and the most that is read of one. */
const AT_ONCE = 2;
const MOST_PAGE_BYTES = 1024 * 1024;
/** A host that fails this often in a row is left alone. */
const MOST_FAILURES = 10;

/** Queues a check of landing links, unless one is under way. */
export async function startLinkCheck(db: Database, input: z.infer<typeof linkCheckSchema>): Promise<JobView> {
  const open = (await listJobs(db)).find(
    (job) => job.kind === "link-check" && (job.state === "waiting" || job.state === "running"),
  );
  return open ?? enqueueJob(db, "link-check", input);
}

interface Target extends CheckedItem {
  link: string;
}

async function targets(db: Database, currency: string, most: number) {
  const names = ["id", "link", "gtin", "price", "salePrice", "availability"];
  const { columns, length } = await loadCatalogue(db, names);
  const text = (name: string, row: number) => (columns[name] ? cellText(columns[name], row) : "");
  const number = (name: string, row: number) => {
    const column = columns[name];
    return column?.kind === "number" ? column.values[row]! : NaN;
  };
  const { rows } = await loadWindow(db, await windowOfDays(db, 30));
  const order = Array.from({ length }, (_, row) => row).filter((row) => /^https?:\/\//i.test(text("link", row)));
  order.sort((a, b) => (rows.cost[b] ?? 0) - (rows.cost[a] ?? 0) || a - b);
  const ids = new Set<string>();
  for (let row = 0; row < length; row++) ids.add(text("id", row));
  const list = order.slice(0, most).map((row): Target => ({
    id: text("id", row),
    link: text("link", row),
    gtin: text("gtin", row),
    price: paidPrice(number("price", row), number("salePrice", row)),
    currency,
    availability: text("availability", row),
  }));
  return { list, ids };
}

async function run(context: JobContext, raw: unknown): Promise<{ checked: number; states: Record<string, number> }> {
  const { most } = linkCheckSchema.parse(raw);
  const { db, info } = context;
  const { list, ids } = await targets(db, info.currency, most);
  const states: Record<string, number> = {};
  const failures = new Map<string, number>();
  let next = 0;
  let done = 0;
  const worker = async () => {
    while (next < list.length) {
      const target = list[next++]!;
      const { host } = new URL(target.link);
      const found =
        (failures.get(host) ?? 0) >= MOST_FAILURES
          ? { state: "unreachable" as const, detail: `${host} failed ${MOST_FAILURES} times and was left alone.` }
          : await look(target, (id) => ids.has(id));
      failures.set(host, found.state === "unreachable" ? (failures.get(host) ?? 0) + 1 : 0);
      states[found.state] = (states[found.state] ?? 0) + 1;
      const row = { itemId: target.id, link: target.link, checkedAt: Date.now(), ...found };
      await db.insert(linkChecks).values(row).onConflictDoUpdate({ target: linkChecks.itemId, set: row });
      done++;
      await context.progress(done, list.length, "pages");
      await sleep(settings().HOTSHELF_LINK_GAP_MS);
    }
  };
  const stopAll = (error: unknown) => {
    next = list.length;
    throw error;
  };
  await Promise.all(Array.from({ length: AT_ONCE }, () => worker().catch(stopAll)));
  await noteChange(db, `Landing links checked: ${done}`, "", "catalogue");
  return { checked: done, states };
}

async function look(target: Target, isOurs: (id: string) => boolean): Promise<{ state: LinkState; detail: string }> {
  try {
    const answer = await fetchSafely(target.link, { accept: "text/html" });
    if (answer.status === 404 || answer.status === 410) {
      answer.body.destroy();
      return { state: "gone", detail: `The shop answers ${answer.status}.` };
    }
    if (answer.status !== 200) {
      answer.body.destroy();
      return { state: "unreachable", detail: `The shop answers ${answer.status}.` };
    }
    const at = new URL(answer.url);
    if (at.pathname === "/" && new URL(target.link).pathname !== "/") {
      answer.body.destroy();
      return { state: "moved", detail: "The link leads to the shop's front page." };
    }
    let html = "";
    answer.body.setEncoding("utf8");
    for await (const piece of answer.body) {
      html += piece as string;
      if (html.length > MOST_PAGE_BYTES) break;
    }
    return checkPage(html, target, isOurs);
  } catch (error) {
    if (error instanceof FailureError) return { state: "unreachable", detail: error.failure.message };
    return { state: "unreachable", detail: "The connection broke off." };
  }
}

export const linkCheck: JobHandler = { run, rollBack: async () => {} };

/** How many pages were looked at, and when last. */
export async function linkCheckSummary(db: Database): Promise<{ checked: number; at: number | null }> {
  const [row] = await db
    .select({ checked: sql<number>`count(*)`, at: sql<number | null>`max(${linkChecks.checkedAt})` })
    .from(linkChecks);
  return { checked: row?.checked ?? 0, at: row?.at ?? null };
}
