import { expect, type Page } from "@playwright/test";
import { api, choose, DEMO, expectAccessible, jobsDone } from "./helpers";
import { test } from "./site";

interface SetPage {
  items: number;
  total: { cost: number };
  shelves: { key: string; name: string; items: number; sums: { cost: number } }[];
}

const setPage = (page: Page, key: string) => api<SetPage>(page, `quillmoor/shelf-sets/${key}`);

test("a ready-made set is looked at, cut anew by keyboard and by number, and kept", async ({ page }) => {
  await page.goto(`${DEMO}/shelves`);
  await page.getByRole("button", { name: "New set" }).click();
  const dialog = page.getByRole("dialog", { name: "New shelf set" });
  await dialog.getByRole("button", { name: "Margin tiers" }).click();
  await expect(dialog.getByText("Return goals by tier: 2 pays at half margin")).toBeVisible();
  await expectAccessible(page);
  await dialog.getByRole("button", { name: "Look at it" }).click();
  const shelves = page.getByRole("table", { name: "Shelves of the set" });
  const first = shelves.getByRole("row").nth(1);
  await expect(first).toContainText("Margin 50 % and up");
  const countOf = async () => Number((await first.getByRole("cell").nth(2).textContent())!.replace(/\D/g, ""));
  await expect(first.getByRole("cell").nth(2)).toHaveText(/^\d/);
  const before = await countOf();
  // Each press moves the cut; counts follow, and the name says what it holds.
  await page.getByRole("slider", { name: "Cut of Margin 50 % and up" }).focus();
  for (let i = 0; i < 6; i++) await page.keyboard.press("ArrowLeft");
  await expect(first).not.toContainText("Margin 50 % and up");
  await expect.poll(countOf).toBeGreaterThan(before);
  await shelves.getByRole("button", { name: /^Margin \d+(\.\d+)? % and up/ }).click();
  await page.getByLabel("Value", { exact: true }).fill("25");
  await expect(page.getByRole("status").filter({ hasText: "takes all that" })).toBeVisible();
  await expect(page.getByRole("button", { name: "Keep this set" })).toBeDisabled();
  await page.getByLabel("Value", { exact: true }).fill("45");
  await expect(first).toContainText("Margin 45 % and up");
  await expect(page.getByRole("region", { name: "Distribution" })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole("button", { name: "Keep this set" }).click();
  await expect(page.getByText("“Margin tiers” is kept")).toBeVisible();
  const kept = await setPage(page, "margin-tiers");
  expect(kept.shelves.reduce((sum, { items }) => sum + items, 0)).toBe(kept.items);
  expect(kept.shelves.reduce((sum, { sums }) => sum + sums.cost, 0)).toBe(kept.total.cost);
  // It can be taken away, and that can be taken back.
  await page.getByRole("button", { name: "Edit shelves" }).click();
  await page.getByRole("button", { name: "Remove set" }).click();
  await expect(page.getByText("“Margin tiers” is gone")).toBeVisible();
  // One lands on a set that there is.
  await expect(page.getByRole("link", { name: "Hot", exact: true })).toBeVisible();
  await page.getByRole("button", { name: "Take back" }).click();
  await expect
    .poll(async () =>
      (await api<{ definition: { key: string } }[]>(page, "quillmoor/shelf-sets")).map(
        ({ definition: { key } }) => key,
      ),
    )
    .toContain("margin-tiers");
  expect((await setPage(page, "margin-tiers")).shelves.map(({ items }) => items)).toEqual(
    kept.shelves.map(({ items }) => items),
  );
});

test("the top ten, the bottom fifth, a rule and a picked list stand in one set", async ({ page }) => {
  await page.goto(`${DEMO}/shelves`);
  await page.getByRole("button", { name: "New set" }).click();
  await page.getByRole("button", { name: "Begin with an empty set" }).click();
  await page.getByLabel("Name", { exact: true }).first().fill("Mixed");
  const editor = page.getByRole("table", { name: "Shelves of the set" });
  const metric = editor.getByRole("combobox", { name: "Metric" });
  await page.getByRole("button", { name: "cut by a metric" }).click();
  await choose(metric, "Store sales");
  await editor.getByLabel("Cut at").selectOption("count");
  await editor.getByLabel("Name", { exact: true }).fill("Ten best");
  await page.getByRole("button", { name: "cut by a metric" }).click();
  await choose(metric, "Store sales");
  await editor.getByLabel("Side of the cut").selectOption("below");
  await editor.getByLabel("Name", { exact: true }).fill("Lowest fifth");
  await editor.getByLabel("Share, percent").fill("20");
  await page.getByRole("button", { name: "by rule" }).click();
  await page.getByRole("button", { name: "picked by hand" }).click();
  await editor.getByLabel("Name", { exact: true }).fill("Window display");
  await expect(editor.getByText("Keep the set first")).toBeVisible();
  await page.getByRole("button", { name: "Keep this set" }).click();
  await expect(page.getByText("“Mixed” is kept")).toBeVisible();
  await expect(page.getByRole("button", { name: "Edit shelves" })).toBeVisible();
  await expect(page).toHaveURL(/set=my-shelves/);
  // Another walk on this site may have made a set of that key before.
  const key = new URL(page.url()).searchParams.get("set")!;
  const kept = await setPage(page, key);
  expect(kept.shelves.find(({ name }) => name === "Ten best")!.items).toBe(10);
  expect(kept.shelves.find(({ name }) => name === "Lowest fifth")!.items).toBe(Math.round(kept.items * 0.2));
  // A list in any form: with commas, in small letters, one that nobody has; said before it does anything.
  await page.getByRole("button", { name: "Edit shelves" }).click();
  await editor.getByRole("button", { name: /^Window display/ }).click();
  await page.getByRole("button", { name: "Open its list" }).click();
  const list = page.getByRole("dialog");
  await list.getByLabel("Paste item IDs").fill("q00010, Q00020;Q00201\nNOT-YET");
  await expect(list.getByRole("status")).toContainText("4 items added, 0 taken off");
  await expect(list.getByRole("status")).toContainText("1 ID no reading has: NOT-YET");
  await expectAccessible(page);
  await list.getByRole("button", { name: "Add them" }).click();
  await expect(list.getByRole("list", { name: "Items on the shelf" }).getByRole("listitem")).toHaveCount(4);
  await list.getByLabel("Paste item IDs").fill("Q00010 Q00020");
  await list.getByLabel("This list").selectOption("replace");
  await expect(list.getByRole("status")).toContainText("0 items added, 2 taken off");
});

test("a filter and a selection become shelves in two actions, and the item says where it stands", async ({ page }) => {
  await page.goto(`${DEMO}/catalogue?q=compost&days=90`);
  const found = await page.getByRole("status").filter({ hasText: "items found" }).textContent();
  await page.getByRole("button", { name: "Keep as a shelf" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("In the set").selectOption("a new set");
  await dialog.getByLabel("Name of the new set").fill("By topic");
  await dialog.getByRole("button", { name: "Keep as a shelf" }).click();
  await expect(page.getByText(`“compost” holds ${found!.replace(" found", "")}.`)).toBeVisible();
  await page.goto(`${DEMO}/catalogue?q=Q00201`);
  await page.getByRole("row").filter({ hasText: "Q00201" }).getByRole("checkbox").click();
  await page.keyboard.press("s");
  await dialog.getByLabel("Name of the shelf").fill("Favourites");
  await dialog.getByLabel("In the set").selectOption("By topic");
  await dialog.getByRole("button", { name: "Put on the shelf" }).click();
  await expect(page.getByText("“Favourites” holds 1 item.")).toBeVisible();
  await page.goto(`${DEMO}/catalogue?item=Q00201`);
  const panel = page.getByRole("dialog");
  await expect(panel.getByRole("listitem").filter({ hasText: "By topic" })).toContainText("Favourites");
  await expect(panel.getByRole("listitem").filter({ hasText: "Return by chance" })).toContainText(
    /since \d+ \w+ \(Chance of the goal \d+ %/,
  );
});

test("movements are told with names and why, and a day before shows the set as it stood", async ({ page }) => {
  await page.goto(`${DEMO}/shelves/movements?set=return-by-chance&from=2026-10-15&to=2026-10-29`);
  const table = page.getByRole("table", { name: "Movements" });
  await expect(table.getByRole("row").nth(1)).toContainText(/Q\d{5}/);
  await expect(table).toContainText("days in a row past the cut");
  await expectAccessible(page);
  const { moves: told } = await api<{ moves: { title: string | null; from: string | null; to: string | null }[] }>(
    page,
    "quillmoor/shelf-sets/return-by-chance/moves?from=2026-10-15&to=2026-10-29&limit=100000",
  );
  // What stands there today is what stood there then, with those that came and without those that left for another shelf.
  // Items that have left the catalogue are told by their moves, and stand in the figures of neither day.
  const moves = told.filter(({ title }) => title !== null);
  const now = await api<SetPage>(page, "quillmoor/shelf-sets/return-by-chance?on=2026-10-29");
  const then = await api<SetPage>(page, "quillmoor/shelf-sets/return-by-chance?on=2026-10-15");
  for (const { name } of now.shelves.slice(0, -1)) {
    const items = ({ shelves }: SetPage) => shelves.find((shelf) => shelf.name === name)!.items;
    const came = moves.filter(({ to }) => to === name).length;
    const left = moves.filter(({ from, to }) => from === name && to !== null).length;
    expect(items(now) - items(then)).toBe(came - left);
  }
  await page.goto(`${DEMO}/shelves?set=return-by-chance&on=2026-10-15`);
  await expect(page.getByText("as it stood that evening")).toBeVisible();
});

test("two sets are laid over each other, and who gets what both claim is settled by an order", async ({ page }) => {
  await page.goto(`${DEMO}/shelves/claims?first=store-best&second=ads-best`);
  const cell = page.getByRole("button", { name: /^Store best × Ads best: \d+ items/ });
  await expect(cell).toBeVisible();
  await expectAccessible(page);
  const both = Number(/(\d+) items/.exec((await cell.textContent())!)![1]);
  await page.getByRole("button", { name: "Settle who gets them" }).click();
  const shelves = page.getByRole("table", { name: "Shelves of the set" });
  const items = async (name: string) =>
    Number(
      (await shelves
        .getByRole("row")
        .filter({ hasText: name })
        .first()
        .getByRole("cell")
        .nth(2)
        .textContent())!.replace(/\D/g, ""),
    );
  await expect(shelves.getByRole("row").filter({ hasText: "Ads best" }).first().getByRole("cell").nth(2)).toHaveText(
    /^\d/,
  );
  const before = await items("Store best");
  for (let i = 0; i < 2; i++) await shelves.getByRole("button", { name: "Move Ads best up" }).click();
  // Before the store's best, the ads' best take all that both claim.
  await expect.poll(() => items("Store best")).toBe(before - both);
});

test("labels go out at an address with a token, and what changed since is told", async ({ page }) => {
  await page.goto(`${DEMO}/shelves/labels`);
  const keep = page.getByRole("button", { name: "Keep these labels" });
  await page.getByRole("checkbox", { name: "Return by chance" }).check();
  await page.getByRole("checkbox", { name: "Return as it was" }).check();
  await page.getByLabel("Heading of Return as it was").fill("Shelf_return_by_chance");
  await keep.click();
  await expect(page.getByText(/^Two columns are headed "/)).toBeVisible();
  await page.getByLabel("Heading of Return as it was").fill("tier");
  await keep.click();
  await expect(page.getByText(/^Two columns are headed "/)).toHaveCount(0);
  await expect(page.getByText("No channel has fetched it yet.")).toBeVisible();
  await expectAccessible(page);
  const { token } = await api<{ token: string }>(page, "quillmoor/labels");
  const fetched = await page.request.get(`/api/v1/quillmoor/label-feed/${token}/csv`);
  const lines = (await fetched.text()).trim().split("\r\n");
  expect(lines[0]).toBe("id,shelf_return_by_chance,tier");
  expect(lines).toHaveLength(1172);
  expect((await page.request.get("/api/v1/quillmoor/label-feed/wrong/csv")).status()).toBe(404);
  await page.reload();
  await expect(page.getByText("since then the labels of 0 items changed")).toBeVisible();
});

test("days that are run move items by themselves", async ({ page }) => {
  await jobsDone(page, "quillmoor");
  const before = await api<{ definition: { key: string }; computedTo: number }[]>(page, "quillmoor/shelf-sets");
  await page.request.post("/api/v1/quillmoor/market/run", { data: { days: 1 } });
  await jobsDone(page, "quillmoor");
  const after = await api<typeof before>(page, "quillmoor/shelf-sets");
  for (const [i, set] of before.entries()) expect(after[i]!.computedTo).toBe(set.computedTo + 1);
});
