import type { Page } from "@playwright/test";
import { api, choose, DEMO, expectAccessible, jobsDone, pressAct } from "./helpers";
import { expect, test } from "./site";

/** Weak items and junk placements stopped, a rival won, an own page defended, sent, run for 14 days, seen. The steps build on each other. */
test.describe.configure({ mode: "serial" });

interface Line {
  key: string;
  sums: { impressions: number; clicks: number; cost: number; orders: number };
}
interface Slice {
  lines: Line[];
}

const where = (list: object[]) => encodeURIComponent(JSON.stringify(list));
const NO_ORDER = [
  { metric: "orders", op: "most", value: 0 },
  { metric: "clicks", op: "least", value: 150 },
];
const bar = (page: Page) => page.getByRole("group", { name: "Picked lines" });
const inBasket = (page: Page) => page.getByText(/\d+ changes? in the basket$/).first();

let weak: string[] = [];
let junk: string[] = [];
let rival = "";
let own = "";

/** Picks every line found, with a key. */
async function pickAll(page: Page, table: string): Promise<void> {
  await expect(page.getByRole("table", { name: table }).getByRole("checkbox").nth(1)).toBeVisible();
  await page.getByRole("checkbox", { name: "Select all rows found" }).check();
  await expect(bar(page)).toBeVisible();
}

test("items with many clicks and no order are picked together and excluded", async ({ page }) => {
  const query = `level=item&days=90&where=${where(NO_ORDER)}`;
  weak = (await api<Slice>(page, `quillmoor/results?${query}`)).lines.map(({ key }) => key);
  expect(weak.length).toBeGreaterThan(2);
  await page.goto(`${DEMO}/results?${query}`);
  await pickAll(page, "Items");
  await expect(bar(page)).toContainText(`${weak.length} lines picked`);
  await bar(page).getByRole("button", { name: "Exclude" }).click();
  const dialog = page.getByRole("dialog", { name: `Exclude ${weak.length} items` });
  await expect(dialog.getByText("They get no ads in any campaign")).toBeVisible();
  await expectAccessible(page);
  await dialog.getByRole("button", { name: "Put into the basket" }).click();
  await expect(inBasket(page)).toBeVisible();
});

test("junk placements are found by their address and excluded", async ({ page }) => {
  junk = (await api<Slice>(page, "quillmoor/results?level=placement&days=90&q=uncut")).lines.map(({ key }) => key);
  expect(junk.length).toBeGreaterThan(0);
  await page.goto(`${DEMO}/results?level=placement&days=90&q=uncut`);
  await pickAll(page, "Placements");
  await bar(page).getByRole("button", { name: "Exclude" }).click();
  const dialog = page.getByRole("dialog", { name: /Keep \d+ placements? out/ });
  await dialog.getByLabel("Why").selectOption("unsafe");
  await expect(dialog.getByRole("status")).toContainText(`${junk.length} placement`);
  await dialog.getByRole("button", { name: "Put into the basket" }).click();
  await expect(inBasket(page)).toBeVisible();
});

test("a rival whose page ours beats is aimed at, and a page of our own is defended", async ({ page }) => {
  await page.goto(`${DEMO}/targets/listings`);
  const listings = await api<
    {
      listing: string;
      title: string;
      kind: string;
      category: string;
      price: number;
      rating: number;
      nearest: { price: number; rating: number } | null;
    }[]
  >(page, "quillmoor/listings");
  const beaten = listings.find(
    ({ kind, price, rating, nearest }) =>
      kind === "rival" && nearest !== null && nearest.price < price && nearest.rating > rating,
  )!;
  rival = beaten.listing;
  await choose(page.getByRole("combobox", { name: "Category" }), beaten.category);
  await expect(page.getByRole("status").filter({ hasText: "in reach" })).toContainText(/\d+ listings? in reach/);
  await page.getByRole("searchbox", { name: "Search listings" }).fill(beaten.title);
  const table = page.getByRole("table", { name: "Listings" });
  await table.getByRole("checkbox").nth(1).check();
  await expect(page.getByText("Ours stands better in price and rating")).toBeVisible();
  await bar(page).getByRole("button", { name: "Aim at them" }).click();
  const dialog = page.getByRole("dialog", { name: "Aim at 1 listing" });
  await expect(dialog.getByRole("table", { name: "Targets" })).toContainText(beaten.listing);
  await expect(dialog.getByText("1 chosen")).toBeVisible();
  await dialog.getByLabel(/^Bid in/).fill("0.90");
  await expectAccessible(page);
  await dialog.getByRole("button", { name: "Put into the basket" }).click();
  await expect(inBasket(page)).toBeVisible();

  own = listings.find(({ kind }) => kind === "own")!.listing;
  await page.goto(`${DEMO}/targets/listings?q=${own}`);
  await page.getByLabel("Whose").selectOption("own");
  await table.getByRole("checkbox").nth(1).check();
  await bar(page).getByRole("button", { name: "Aim at them" }).click();
  const defence = page.getByRole("dialog", { name: "Aim at 1 listing" });
  await expect(defence.getByLabel("Purpose")).toHaveValue("defend");
  // To aim at an own page for another purpose is a mistake, and said.
  await defence.getByLabel("Purpose").selectOption("conquest");
  await expect(defence.getByRole("alert")).toContainText("is an item of your own");
  await defence.getByLabel("Purpose").selectOption("defend");
  await defence.getByLabel("Campaign").fill("Our own pages");
  await expect(defence.getByRole("alert")).toHaveCount(0);
  await defence.getByLabel(/^Bid in/).fill("0.90");
  await defence.getByRole("button", { name: "Put into the basket" }).click();
  await expect(inBasket(page)).toBeVisible();
});

test("a term that sells becomes a keyword; a slot, hours, a pool and the day cap are set", async ({ page }) => {
  await page.goto(`${DEMO}/results?level=term&days=90&sort=-orders`);
  const terms = page.getByRole("table", { name: "Terms" });
  await expect(terms.getByRole("checkbox").nth(2)).toBeVisible();
  // The best that is a term: partner media name none.
  await terms.getByRole("row").filter({ hasNotText: "no term" }).nth(1).getByRole("checkbox").check();
  await bar(page).getByRole("button", { name: "Aim at them" }).click();
  const aim = page.getByRole("dialog", { name: "Aim at 1 term" });
  await aim.getByRole("checkbox", { name: "phrase" }).check();
  await expect(aim.getByRole("table", { name: "Targets" }).getByRole("row")).toHaveCount(3);
  await expect(aim.getByText(/In the last 90 days they brought/)).toBeVisible();
  await aim.getByLabel("Campaign").fill("Terms that sell");
  await aim
    .getByRole("checkbox", { name: /^Show / })
    .first()
    .check();
  await aim.getByRole("button", { name: "Put into the basket" }).click();
  await expect(inBasket(page)).toBeVisible();

  await page.goto(`${DEMO}/results?level=slot&days=90`);
  await page
    .getByRole("table", { name: "Slots" })
    .getByRole("row", { name: /Item pages/ })
    .getByRole("checkbox")
    .check();
  await pressAct(bar(page), "Slot factor");
  const factor = page.getByRole("dialog", { name: "Slot factor: Item pages" });
  await choose(factor.getByRole("combobox", { name: "Campaign" }), "All products");
  await factor.getByLabel("Bids there times").fill("0.5");
  await expect(factor.getByRole("status", { name: "What bids become" })).toContainText(
    "All products: a bid of €0.52 goes in as €0.26",
  );
  await factor.getByRole("button", { name: "Put into the basket" }).click();
  await expect(inBasket(page)).toBeVisible();

  await page.goto(`${DEMO}/budgets`);
  await page.getByRole("button", { name: "Set a day cap" }).click();
  await page.getByLabel("EUR a day").fill("90");
  await page.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByRole("row", { name: /Day cap, whole workspace/ })).toContainText("€90.00");
  await page.getByRole("button", { name: "Make a pool" }).click();
  await page.getByLabel("Name").fill("Keywords");
  await page.getByLabel("EUR a day").fill("4");
  await page.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByRole("row", { name: /Keywords · no campaign/ })).toBeVisible();
  await page.getByRole("searchbox", { name: "Search campaigns" }).fill("keywords");
  const campaigns = page.getByRole("table", { name: "Budgets of campaigns" });
  await expect(campaigns.getByRole("row")).toHaveCount(3);
  await page.getByRole("checkbox", { name: "Select all rows found" }).check();
  await pressAct(bar(page), "Pool");
  const pool = page.getByRole("dialog", { name: "Budget pool: 2 campaigns" });
  await pool.getByLabel("Draws on").selectOption({ label: "Keywords, €4.00 a day" });
  await pool.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByRole("row", { name: /Keywords · 2 campaigns/ })).toBeVisible();
  await expectAccessible(page);
});

test("all of it is sent, runs for 14 days, and is seen", async ({ page }) => {
  test.setTimeout(180_000);
  await page.goto(`${DEMO}/dispatch`);
  await page.getByRole("button", { name: "Send to the test market" }).click();
  await expect(page.getByText("Dispatch sent")).toBeVisible();
  await page.goto(`${DEMO}/results/market`);
  await page.getByLabel("Days to run").selectOption("14");
  await page.getByRole("button", { name: "Run the test market" }).click();
  await jobsDone(page, "quillmoor", 150);

  const slice = async (query: string) =>
    (await api<Slice>(page, `quillmoor/results?days=14&limit=5000&${query}`)).lines;
  const items = new Map((await slice("level=item")).map((line) => [line.key, line.sums]));
  for (const id of weak) expect(items.get(id)?.clicks ?? 0).toBe(0);
  const placements = new Map((await slice("level=placement")).map((line) => [line.key, line.sums]));
  for (const address of junk) expect(placements.get(address)?.impressions ?? 0).toBe(0);
  expect(placements.size).toBeGreaterThan(0);

  await page.goto(`${DEMO}/exclusions`);
  const kept = page.getByRole("table", { name: "Kept out" });
  await expect(kept.getByRole("row").nth(1)).toContainText("everywhere");
  await expectAccessible(page);
  const { entries } = await api<{
    entries: {
      what: string;
      after: { clicks: number | null; impressions: number | null; cost: number | null } | null;
      before: { cost: number };
    }[];
  }>(page, "quillmoor/kept-out");
  expect(entries).toHaveLength(weak.length + junk.length);
  // The market reports impressions of placements alone: nothing is shown there any more, and clicks are not known.
  for (const { what, after } of entries) {
    expect(what === "placement" ? [after?.impressions, after?.clicks, after?.cost] : [after?.clicks]).toEqual(
      what === "placement" ? [0, null, null] : [0],
    );
  }
  const spent = entries.filter(({ what }) => what === "item").reduce((sum, { before }) => sum + before.cost, 0);
  expect(spent).toBeGreaterThan(0);

  await page.goto(`${DEMO}/targets?days=14`);
  const { targets } = await api<{ targets: { name: string; sums: Line["sums"] }[] }>(page, "quillmoor/targets?days=14");
  for (const name of [rival, own])
    expect(targets.find((target) => target.name === name)!.sums.impressions).toBeGreaterThan(0);
  await expect(
    page.getByRole("table", { name: "Targets" }).getByRole("row", { name: new RegExp(rival) }),
  ).toBeVisible();
  const till = await api<{ lastDayCost: number }>(page, "quillmoor/till?days=7");
  expect(till.lastDayCost).toBeLessThanOrEqual(90_000);
  // Let in again: the entry goes, and the way back lies in the basket.
  await page.goto(`${DEMO}/exclusions`);
  await kept.getByRole("checkbox").nth(1).check();
  await bar(page).getByRole("button", { name: "Let in again" }).click();
  await expect(page.getByText("1 change in the basket")).toBeVisible();
  await expect(page.getByText(`${weak.length + junk.length - 1} entries`).first()).toBeVisible();
});
