import { beforeEach, describe, expect, it } from "vitest";
import { placeSchema, type Place } from "@/core/channel/place";
import { dayAt, formatDay } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { queueDuePlaces } from "../dispatch/channel-places";
import { importFeed, runToEnd, runWaiting, testWorkspace } from "../testing";
import { listJobs } from "../jobs/jobs";
import type { WorkspaceInfo } from "../workspaces";
import { chooseChannel } from "./choice";
import { pastePlaces, pastePlacesSchema } from "./paste-places";
import { keepTold, knownPlaces, placesVersion, rateBook } from "./places";
import { rateCards, rateCardSchema } from "../targets/rate-cards";

let db: Database;
let info: WorkspaceInfo;

beforeEach(async () => {
  ({ db, info } = await testWorkspace());
});

const place = (more: Partial<Place> & Pick<Place, "name">): Place => placeSchema.parse({ kind: "query", ...more });
const tell = (...places: Place[]) => keepTold(db, places, info.timeZone, "test", async () => {});
const give = async (text: string, origin: "pasted" | "file" = "pasted") => {
  const done = await pastePlaces(db, info, "ann", pastePlacesSchema.parse({ text, origin }));
  if (!done.ok) throw new Error(done.error.message);
  return done.value;
};
const typical = async (text: string) => (await rateBook(db)).keyword(text, "phrase")?.typical ?? null;

describe("what a channel tells", () => {
  it("stands in place of what it told before, and moves the version once all of it is there", async () => {
    await tell(place({ name: "rake", typical: 300 }), place({ name: "hose", typical: 500 }));
    const before = await placesVersion(db);
    await tell(place({ name: "hose", typical: 600 }), place({ name: "spade" }));
    expect(await placesVersion(db)).toBe(before + 1);
    expect((await knownPlaces(db)).map(({ name, typical: price }) => [name, price]).sort()).toEqual([
      ["hose", 600],
      ["spade", null],
    ]);
    expect(await typical("rake")).toBeNull();
    expect(await typical("hose")).toBe(600);
    const today = formatDay(dayAt(Date.now(), info.timeZone));
    expect((await knownPlaces(db)).every(({ day, origin }) => formatDay(day) === today && origin === "channel")).toBe(
      true,
    );
  });

  it("is known anew also where somebody gave a rate card while it was told", async () => {
    await tell(place({ name: "hose", typical: 600 }));
    async function* slowly() {
      yield place({ name: "hose", typical: 700 });
      await give("term\ttypical\nspade\t0,20");
      expect(await typical("spade")).toBe(200);
      yield place({ name: "rake", typical: 300 });
    }
    await keepTold(db, slowly(), info.timeZone, "test", async () => {});
    expect([await typical("hose"), await typical("rake"), await typical("spade")]).toEqual([700, 300, 200]);
  });

  it("stays beside what people gave, which counts on the day it was given", async () => {
    await tell(place({ name: "hose", typical: 600, monthlyViews: 50 }));
    expect(await give("term\ttypical\nhose\t0,45\nrake\t0,30")).toMatchObject({ taken: 2, faults: [] });
    expect(await typical("hose")).toBe(450);
    await db.$client.execute("UPDATE channel_places SET day = day - 1 WHERE origin = 'pasted'");
    await tell(place({ name: "hose", typical: 620, monthlyViews: 50 }));
    expect(await typical("hose")).toBe(620);
    // What the channel does not tell of at all stays as it was given.
    expect(await typical("rake")).toBe(300);
  });
});

describe("a rate card that is given", () => {
  it("tells terms, listings and items by its headings, and says line by line what can't be read", async () => {
    const text = [
      "item;listing;term;low;cpc;high;volume;colour",
      "I1;;;0,10;0,20;0,40;1.200;red",
      ";L1;;;0,50;;;",
      ";;garden hose;;0,30;0,90;900;",
      "I2;L2;;;0,10;;;",
      ";;;;0,10;;;",
      ";;rake;0,10;;;;",
      ";;spade;;dear;;;",
    ].join("\n");
    const told = await give(text, "file");
    expect(told).toEqual({
      taken: 3,
      leftAlone: ["colour"],
      faults: [
        { line: 5, message: "It names more than one of listing, term and item." },
        { line: 6, message: "There is no listing, term or item." },
        { line: 7, message: "A low or high price needs the typical one beside it." },
        { line: 8, message: "“dear” is no amount." },
      ],
    });
    const asked = rateCardSchema.parse({ items: ["I1", "I9"], listings: ["L1"], keywords: [{ text: "hose" }] });
    const cards = await rateCards(db, asked);
    expect(cards.items.map(({ card }) => card)).toEqual([
      { low: 100, typical: 200, high: 400, monthlyViews: 1200, places: 1 },
      null,
    ]);
    expect(cards.listings[0]!.card).toEqual({ low: null, typical: 500, high: null, monthlyViews: null, places: 1 });
    expect(cards.keywords[0]!.card).toMatchObject({ typical: Math.round(300 / 0.9), monthlyViews: 900 });
  });
});

describe("asking", () => {
  it("is due once a feed was read and again when it changed; a channel of files is never asked", async () => {
    const asked = async () => (await listJobs(db)).filter(({ kind }) => kind === "channel-places").length;
    await queueDuePlaces(db, info);
    expect(await asked()).toBe(0);
    await importFeed({ db, info }, "id,title,price,category\nI1,Oak Rake,20,Rakes\n");
    await queueDuePlaces(db, info);
    await queueDuePlaces(db, info);
    expect(await asked()).toBe(1);
    await runWaiting(db, info);
    const { rows } = await db.$client.execute(
      "SELECT count(*) FROM channel_places WHERE kind = 'item' AND name = 'I1'",
    );
    expect(rows[0]![0]).toBe(1);
    await queueDuePlaces(db, info);
    expect(await asked()).toBe(1);
    await importFeed({ db, info }, "id,title,price,category\nI1,Oak Rake,25,Rakes\nI2,Ash Rake,22,Rakes\n");
    await queueDuePlaces(db, info);
    expect(await asked()).toBe(2);
    // While the market is being asked no other channel takes its place.
    expect(await chooseChannel(db, { kind: "files" })).toMatchObject({ ok: false, error: { code: "channel-busy" } });
    await runWaiting(db, info);
    const chosen = await chooseChannel(db, { kind: "files" });
    expect(chosen.ok).toBe(true);
    // What the market told of prices does not hold there.
    expect(await knownPlaces(db)).toEqual([]);
    await importFeed({ db, info }, "id,title,price,category\nI1,Oak Rake,27,Rakes\n");
    await queueDuePlaces(db, info);
    expect(await asked()).toBe(2);
    const run = await runToEnd(db, info, "channel-places", {});
    expect(run.result).toEqual({ places: 0 });
  });
});
