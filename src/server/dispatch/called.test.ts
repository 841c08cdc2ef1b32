import { beforeAll, describe, expect, it } from "vitest";
import { editSchema } from "@/core/account/acts";
import type { Database } from "@/db/client";
import { editAccount } from "../account/edits";
import { readAccount } from "../account/state";
import { viewProductGroups } from "../planogram/workbench";
import { importFeed, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { basketFilterSchema, viewBasket } from "./basket";

const FEED = [
  "id,title,price,image_link,item_group_id",
  "H1,Thornlea garden hose 20 m,20,https://shop.example/h1.png,F1",
  'H2,"Thornlea garden hose, 30 m",30,https://shop.example/h2.png,F1',
  "X1,Watering can,9,https://shop.example/x1.png,",
  "R1,Rake,9,https://shop.example/r1.png,F2",
  "S1,Spade,9,https://shop.example/s1.png,F2",
  "L1,Lamp that has a title of more words than would ever fit into the name of a campaign,5,https://shop.example/l1.png,",
].join("\n");

let db: Database;
let info: WorkspaceInfo;

beforeAll(async () => {
  ({ db, info } = await testWorkspace());
  await importFeed({ db, info }, `${FEED}\n`);
  const put = async (edit: object) => {
    const done = await editAccount(db, "Ada", null, editSchema.parse(edit), "EUR");
    expect(done.ok).toBe(true);
  };
  await put({ action: "solo", items: ["H1", "R1", "L1"], name: "Solos", dailyBudget: 5000, bid: 300, families: true });
  await put({ action: "exclude", items: ["X1"], reason: "wasteful", note: "", reviewOn: null, campaign: null });
}, 60_000);

describe("items and families", () => {
  it("are called by their titles in the basket, with a picture", async () => {
    const filter = basketFilterSchema.parse({ all: "true" });
    const { changes } = await viewBasket(db, info, 0, 200, filter);
    const seen = changes.flatMap(({ item, image, text }) => (item === null ? [] : [{ item, image, text }]));
    const of = (item: string) => seen.filter((one) => one.item === item);
    // An item by its whole title, the family by what its titles have in common, with the first one's picture.
    expect(of("Watering can")).toMatchObject([{ image: "https://shop.example/x1.png" }]);
    expect(of("Thornlea garden hose")).toMatchObject([{ image: "https://shop.example/h1.png" }]);
    expect(of("Lamp that has a title of more words than would ever fit into the name of a campaign")).toHaveLength(1);
    // Titles that begin with nothing alike say nothing together.
    expect(seen).toHaveLength(3);
  });

  it("are called so in the workbench, behind the code that the feed has for them", async () => {
    const { planned } = await readAccount(db);
    const names: string[] = [];
    for (const { key } of planned.all("adGroup")) {
      const { lines } = await viewProductGroups(db, key, null);
      names.push(...lines.map(({ name }) => name));
    }
    expect(names.sort()).toEqual([
      "family = F1 · Thornlea garden hose",
      "family = F2",
      "item = L1 · Lamp that has a title of more words than would ever fit into the name of a campaign",
      "remainder",
      "remainder",
    ]);
  });
});
