import { z } from "zod";
import { daySchema } from "@/core/kit/day-schema";
import { planAccount } from "@/core/market/running-account";
import { simulateDay } from "@/core/market/day";
import { firstState } from "@/core/market/day-types";
import type { World } from "@/core/market/world-types";
import { dayAt, formatDay, parseDay } from "@/core/kit/days";
import { fail, giveUp, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { marketState } from "@/db/schema";
import { loadCatalogue } from "../catalogue/load";
import { standingAt } from "../channel/books";
import { channelChoice } from "../channel/choice";
import { servedColumns } from "../account/serving";
import { enqueueJob, type JobView } from "../jobs/jobs";
import { Later, type JobContext, type JobHandler } from "../jobs/work";
import { Coder } from "../results/coder";
import { TraitNotes } from "../results/traits";
import { resultDays } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";
import { noteDay, queueSwitches } from "../experiments/switches";
import { MarketChannel } from "./market-channel";
import { storeDay } from "./store-day";
import { tellIfNew } from "./told";
import { loadWorld } from "./world";

export const marketRunSchema = z.object({
  days: z.int().min(1).max(366),
  /** Names the draws; the same seed on the same account gives the same days. */
  seed: z.string().min(1).max(60).optional(),
  /** The first day to run, later than any day with results; the day after them when left out. */
  from: daySchema.optional(),
  /** Seconds between two days, to watch them come in; 0 runs as fast as it goes. */
  pause: z.number().min(0).max(60).default(0),
});

const runInputSchema = z.object({
  from: z.int(),
  through: z.int(),
  seed: z.string(),
  pause: z.number().default(0),
});

/** How long a day waits for what experiments by days have to change for it. */
const SWITCHING_MS = 50;

/** Queues a run of the test market from the day after the last results. */
export async function startMarketRun(
  db: Database,
  info: WorkspaceInfo,
  input: z.input<typeof marketRunSchema>,
): Promise<Outcome<JobView>> {
  if ((await channelChoice(db)).kind !== "market") {
    return fail(
      "market-not-channel",
      "This workspace sends to another channel: days of the test market would stand among its own results.",
      "Choose the test market under Dispatch, Channel, or make a workspace for trials.",
    );
  }
  const catalogue = await loadCatalogue(db, []);
  if (catalogue.length === 0) {
    return fail("market-no-catalogue", "There is no catalogue to run the market on.", "Upload a feed first.");
  }
  const days = await resultDays(db);
  const next = days ? days.to + 1 : dayAt(Date.now(), info.timeZone);
  const from = input.from ? parseDay(input.from) : next;
  if (days && from < next) {
    return fail(
      "market-day-past",
      `There are results up to ${formatDay(days.to)} already; a day is run once.`,
      `Begin on ${formatDay(next)} or later.`,
    );
  }
  const run = { from, through: from + input.days - 1, seed: input.seed ?? info.marketSeed, pause: input.pause ?? 0 };
  return ok(await enqueueJob(db, "market-run", run));
}

async function run(context: JobContext, raw: unknown) {
  const { from, through, seed, pause } = runInputSchema.parse(raw);
  const { db, info } = context;
  const source = await standingAt(new MarketChannel(db, info));
  const found = await loadWorld(db, info, source);
  if (!found) giveUp("market-no-catalogue", "There is no catalogue to run the market on.");
  const { world } = found;
  const { catalogue, valueOf } = await servedColumns(db, info, source);
  const account = planAccount(world, source, catalogue, valueOf);
  const coder = await Coder.load(db);
  await tellPlacements(db, coder, world);
  await tellIfNew(db, info, world);
  const [kept] = await db.select().from(marketState);
  let state = kept?.state ?? firstState();
  // Days are stored one by one, so a run that was broken off goes on after the last whole day.
  const first = kept && kept.day >= from ? kept.day + 1 : from;
  for (let day = first; day <= through; day++) {
    await context.progress(day - from, through - from + 1, "days");
    // Experiments by days change the account for this day first; the run goes on with what is sent then.
    if ((await queueSwitches(db, info, day)) > 0) {
      throw new Later(SWITCHING_MS, { done: day - from, total: through - from + 1, unit: "days" });
    }
    await noteDay(db, info, day);
    const result = simulateDay(world, account, day, state, { noise: true, seed });
    state = result.state;
    const tx = await db.$client.transaction("write");
    try {
      await storeDay(tx, coder, day, result);
      await tx.commit();
    } finally {
      tx.close();
    }
    // Between days to be watched other work has its turn, and the next day runs on what it left.
    if (pause > 0 && day < through) {
      const total = through - from + 1;
      throw new Later(pause * 1000, { done: day - from + 1, total, unit: "days" });
    }
  }
  return { from: formatDay(from), to: formatDay(through), days: through - from + 1 };
}

/** What the channel's placement report says of placements beside their views: the name shown and the kind. */
async function tellPlacements(db: Database, coder: Coder, { placements }: World): Promise<void> {
  const traits = new TraitNotes();
  for (const { address, name, kind } of placements) {
    const code = coder.code("placement", address);
    traits.note(code, "name", name);
    traits.note(code, "placementKind", kind);
  }
  const tx = await db.$client.transaction("write");
  try {
    await coder.save(tx);
    await traits.save(tx);
    await tx.commit();
  } finally {
    tx.close();
  }
}

/** Whole days stay: each is one transaction, and a cancelled run keeps the days it has run. */
async function rollBack(): Promise<void> {}

export const marketRun: JobHandler = { run, rollBack };
