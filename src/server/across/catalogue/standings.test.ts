import { describe, expect, it } from "vitest";
import { diffRecords } from "@/core/kit/diff";
import { cellText } from "@/core/kit/columns";
import { testCampaign } from "@/core/market/test-shop";
import { standingOf, type StandingFacts } from "@/core/account/standing";
import { addToBasket, importFeed, runToEnd, testWorkspace } from "../../testing";
import { loadCatalogue } from "../../catalogue/load";
import { forgottenItems, loadStandings, standingColumn } from "./standings";

const HEAD = "id,title,price,brand,availability";
const feed = (...rows: string[]) => `${HEAD}\n${rows.join("\n")}\n`;
const rake = (id: string, availability = "in stock", brand = "Oak") => `${id},Rake ${id},5.00,${brand},${availability}`;

describe("how items stand to the structure", () => {
  it("the first reason that holds counts, and a home before all", () => {
    const none: StandingFacts = {
      ...{ homes: 0, isSoldOut: false, isExcluded: false },
      ...{ isNew: false, isBack: false, isChanged: false },
    };
    const all: StandingFacts = {
      homes: 1,
      isSoldOut: true,
      isExcluded: true,
      isNew: true,
      isBack: true,
      isChanged: true,
    };
    expect(standingOf(all)).toBe("home");
    expect(standingOf({ ...all, homes: 0 })).toBe("sold-out");
    expect(standingOf({ ...all, homes: 0, isSoldOut: false })).toBe("kept-out");
    expect(standingOf({ ...none, isNew: true, isBack: true })).toBe("new");
    expect(standingOf({ ...none, isBack: true, isChanged: true })).toBe("back");
    expect(standingOf({ ...none, isChanged: true })).toBe("changed");
    expect(standingOf(none)).toBe("never");
  });

  it("what came, came back and was never planned is told apart from what is left out on purpose", async () => {
    const workspace = await testWorkspace();
    const { db, info } = workspace;
    await importFeed(
      workspace,
      feed(rake("1"), rake("2"), rake("3", "out of stock"), rake("4"), rake("5", "out of stock")),
    );
    // A campaign for 1 and 2 alone; 4 is kept out everywhere.
    const account = {
      ...testCampaign("c:a", { name: "A" }, ["1", "2"], 500),
      "x:4": { type: "exclusion", key: "x:4", item: "4", campaign: null, reason: "", reviewOn: null } as never,
    };
    await addToBasket(db, diffRecords({}, account));
    await runToEnd(db, info, "dispatch", { takesBack: null });
    await importFeed(workspace, feed(rake("1"), rake("2"), rake("3"), rake("4"), rake("5", "out of stock"), rake("6")));
    const { columns, length } = await loadCatalogue(db, ["id"]);
    const column = await standingColumn(db);
    const standings = Object.fromEntries(
      Array.from({ length }, (_, row) => [cellText(columns["id"]!, row), cellText(column, row)]),
    );
    expect(standings).toEqual({
      "1": "has a home",
      "2": "has a home",
      "3": "without home (back in stock)",
      "4": "kept out",
      "5": "sold out",
      "6": "without home (new)",
    });
    const { counts } = await loadStandings(db);
    expect(Object.values(counts).reduce((sum, count) => sum + count, 0)).toBe(length);
    expect(await forgottenItems(db)).toEqual({
      total: 2,
      byReason: [
        { standing: "new", items: 1 },
        { standing: "back", items: 1 },
      ],
      planogram: null,
    });
  });
});
