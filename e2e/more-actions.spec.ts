import type { Page } from "@playwright/test";
import { api, choose, DEMO, expectAccessible, pressAct } from "./helpers";
import { expect, test } from "./site";

/** What can be done at the levels that the walk leaves out, with the basket emptied after each. */

const bar = (page: Page) => page.getByRole("group", { name: "Picked lines" });
const waiting = async (page: Page) => (await api<{ total: number }>(page, "quillmoor/basket?limit=1")).total;

test.afterEach(async ({ page }) => {
  // A connection that was kept open may be closed just as it is used again; emptying twice does no harm.
  const emptied = { data: { keys: "all" }, maxRetries: 2 };
  expect((await page.request.post("/api/v1/quillmoor/basket/remove", emptied)).ok()).toBe(true);
});

/** Opens results of a level and picks a line by keys. */
async function pickFirst(page: Page, level: string, q = ""): Promise<void> {
  await page.goto(`${DEMO}/results?level=${level}&days=90&q=${q}`);
  await expect(page.getByRole("checkbox", { name: "Select row 1", exact: true })).toBeVisible();
  await page.getByRole("main").focus();
  await page.keyboard.press("j");
  await page.keyboard.press("x");
  await expect(bar(page)).toContainText("1 line picked");
}

test("hours, targets, ad groups and campaigns are acted on where their numbers are", async ({ page }) => {
  await pickFirst(page, "hour");
  await pressAct(bar(page), "Hour factor");
  const hour = page.getByRole("dialog", { name: "Hour factor: 00:00" });
  await choose(hour.getByRole("combobox", { name: "Campaign" }), "All products");
  await hour.getByLabel("Bids there times").fill("11");
  await expect(hour.getByText("A factor from 0 to 10.")).toBeVisible();
  await hour.getByLabel("Bids there times").fill("0");
  await expect(hour.getByRole("status", { name: "What bids become" })).toContainText("goes in as €0.00");
  await hour.getByRole("button", { name: "Put into the basket" }).click();
  await expect.poll(() => waiting(page)).toBe(1);

  await pickFirst(page, "target", "hoses");
  await pressAct(bar(page), "Own campaign");
  const move = page.getByRole("dialog", { name: /^Move to a campaign of its own/ });
  await move.getByLabel("Campaign").fill("All products");
  await move.getByRole("button", { name: "Put into the basket" }).click();
  await expect(move.getByText("There is a campaign called “All products” already.")).toBeVisible();
  await move.getByLabel("Campaign").fill("Hoses alone");
  await move.getByRole("button", { name: "Put into the basket" }).click();
  await expect.poll(() => waiting(page)).toBeGreaterThan(3);

  await pickFirst(page, "adGroup");
  await pressAct(bar(page), "Change bids");
  const bids = page.getByRole("dialog", { name: /^Change bids/ });
  await bids.getByLabel("How").selectOption("Lower to at most");
  await bids.getByLabel(/^Amount in/).fill("0.30");
  await bids.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByText("Bid lowered to at most €0.30: 1 change in the basket")).toBeVisible();

  await pickFirst(page, "campaign");
  await bar(page).getByRole("button", { name: "Pause" }).click();
  const pause = page.getByRole("dialog", { name: /^Pause/ });
  await pause.getByLabel("Why").fill("too dear in autumn");
  await pause.getByRole("button", { name: "Put into the basket" }).click();
  await expect(pause).toHaveCount(0);
  await page.goto(`${DEMO}/planogram`);
  await expect(page.getByText(/too dear in autumn; look again/)).toBeVisible();
});

test("a category's items are excluded in one campaign, or lifted into one of their own", async ({ page }) => {
  await pickFirst(page, "field:category2");
  // As many as the catalogue has in that category, not only those with results, and no others.
  const [line] = (await api<{ lines: { key: string }[] }>(page, "quillmoor/results?level=field:category2&days=90"))
    .lines;
  const filter = encodeURIComponent(JSON.stringify([{ field: "category2", op: "is", value: line!.key }]));
  const { total } = await api<{ total: number }>(page, `quillmoor/items?limit=1&filter=${filter}`);
  expect(total).toBeLessThan(200);
  await expect(bar(page).getByText(`${total} items`, { exact: true })).toBeVisible();
  await pressAct(bar(page), "Own campaign");
  const solo = page.getByRole("dialog", { name: /^A campaign of their own/ });
  await solo.getByLabel("Campaign").fill("Lifted out");
  await solo.getByLabel("Whole families, and whatever joins them later").check();
  await expectAccessible(page);
  await solo.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByText(/Lifted into a campaign of its own: Lifted out/)).toBeVisible({ timeout: 30_000 });
  const { lines } = await api<{ lines: { name: string; level: string; items: number }[] }>(
    page,
    "quillmoor/account?days=30",
  );
  expect(lines.find(({ name, level }) => name === "Lifted out" && level === "campaign")!.items).toBeGreaterThan(1);

  await pickFirst(page, "item");
  await bar(page).getByRole("button", { name: "Exclude" }).click();
  const exclude = page.getByRole("dialog", { name: "Exclude 1 item" });
  await choose(exclude.getByRole("combobox", { name: "Where" }), "All products");
  await expect(exclude.getByText("Other campaigns that hold them go on")).toBeVisible();
  await exclude.getByRole("button", { name: "Put into the basket" }).click();
  await expect(exclude).toHaveCount(0);
  await page.goto(`${DEMO}/exclusions`);
  await expect(page.getByRole("table", { name: "Kept out" }).getByRole("row").nth(1)).toContainText("All products");
});

test("a structure file comes back with its difference; the basket is filtered, and sent later", async ({ page }) => {
  const csv = await (await page.request.get("/api/v1/quillmoor/structure?format=csv")).text();
  await page.goto(`${DEMO}/planogram`);
  await page.getByRole("button", { name: "Read a file back" }).click();
  const dialog = page.getByRole("dialog", { name: "Read a file back" });
  const edited = csv.replace("144.00", "120.00").replace("1.25", "much");
  await dialog
    .getByLabel("Structure file")
    .setInputFiles({ name: "structure.csv", mimeType: "text/csv", buffer: Buffer.from(edited) });
  await expect(dialog.getByRole("list", { name: "Changes" })).toContainText("daily budget €144.00 → €120.00");
  await expect(dialog.getByRole("alert")).toContainText("“much” is no amount");
  await dialog.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByText("1 change in the basket")).toBeVisible();

  await page.goto(`${DEMO}/dispatch`);
  await expect(page.getByRole("table", { name: "Changes" }).getByRole("row")).toHaveCount(2);
  await expect(page.getByText(/Past results do not tell of 1 change/)).toBeVisible();
  await page.getByRole("button", { name: "Send later" }).click();
  await page.getByRole("button", { name: "Set it" }).click();
  await expect(page.getByText("A dispatch is set for")).toBeVisible();
  await page.getByRole("button", { name: "Call it off" }).click();
  await expect(page.getByText("A dispatch is set for")).toHaveCount(0);
  await page.getByRole("combobox", { name: "Campaign" }).selectOption({ label: "All products (1)" });
  await page.getByRole("button", { name: "Take all found out" }).click();
  await expect(page.getByText("Nothing waits to be sent")).toBeVisible();
});

test("what waits is told apart from what is live, asks on its day, and is put back when it was thrown out", async ({
  page,
}) => {
  const { items } = await api<{ items: { id: string; title: string }[] }>(page, "quillmoor/items?sort=-clicks&limit=1");
  const [item] = items;
  const act = { action: "exclude", items: [item!.id], reason: "wasteful", reviewOn: "2026-01-15" };
  const kept = await page.request.post("/api/v1/quillmoor/account/edits", { data: act });
  expect(kept.ok()).toBe(true);

  await page.goto(DEMO);
  await expect(page.getByText("1 exclusion to look at again; 1 of them waits in the basket.")).toBeVisible();
  await expect(page.getByText("Looking what else asks …")).toHaveCount(0);
  await expectAccessible(page);
  await page.getByRole("link", { name: "Review them" }).click();
  await expect(page.getByRole("table").getByRole("row")).toHaveCount(2);

  await page.goto(`${DEMO}/catalogue?item=${item!.id}`);
  const panel = page.getByRole("dialog");
  await expect(panel.getByRole("heading", { name: "Live" })).toBeVisible();
  await expect(panel.getByText(/^Served first by/)).toBeVisible();
  await expect(panel.getByRole("heading", { name: "With the basket" })).toBeVisible();
  await expect(panel.getByText("Excluded from all ads: wasteful.")).toBeVisible();
  await page.keyboard.press("Escape");

  await page.goto(`${DEMO}/dispatch`);
  await page.getByRole("button", { name: "Empty the basket" }).click();
  const asked = page.getByRole("dialog", { name: "Empty the basket?" });
  await expect(asked).toContainText("Excluded: wasteful: 1 change");
  await asked.getByRole("button", { name: "Leave it" }).click();
  await expect(page.getByRole("table", { name: "Changes" }).getByRole("row")).toHaveCount(2);
  await page.getByRole("button", { name: "Empty the basket" }).click();
  await asked.getByRole("button", { name: "Take 1 change out" }).click();
  await expect(page.getByText("Nothing waits to be sent")).toBeVisible();
  await page.getByRole("button", { name: "Put back" }).click();
  await expect(page.getByRole("table", { name: "Changes" })).toContainText("Excluded: wasteful");

  // Let in again from its panel, and nothing waits any more.
  await page.goto(`${DEMO}/catalogue?item=${item!.id}`);
  await panel.getByRole("button", { name: "Include again" }).click();
  await expect(panel.getByRole("heading", { name: "With the basket" })).toHaveCount(0);
  await page.keyboard.press("Escape");
  await expect(page.getByRole("contentinfo")).toContainText("Basket empty");
});

test("items bid what their clicks are worth, each for its reason", async ({ page }) => {
  await page.goto(`${DEMO}/catalogue?days=90&sort=-cost`);
  for (const row of [1, 2, 3]) {
    await page.getByRole("checkbox", { name: `Select row ${row}`, exact: true }).click();
  }
  await page.getByRole("button", { name: "Set bid" }).first().click();
  const dialog = page.getByRole("dialog", { name: "Bid for 3 items" });
  await dialog.getByLabel("How").selectOption({ label: "What a click is worth, towards the goal" });
  await dialog.getByLabel("Largest step, percent").fill("500");
  await expect(dialog.getByText("A whole percentage from 5 to 400.")).toBeVisible();
  await expect(dialog.getByRole("button", { name: "Put into the basket" })).toBeDisabled();
  await dialog.getByLabel("Largest step, percent").fill("30");
  await expect(dialog.getByRole("status", { name: "What that changes" })).toContainText("a click");
  await expectAccessible(page);
  await dialog.getByRole("button", { name: "Put into the basket" }).click();
  await expect(dialog).toHaveCount(0);
  const basket = await api<{ changes: { cause: number; reason: string; text: string }[]; total: number }>(
    page,
    "quillmoor/basket?limit=50",
  );
  expect(basket.total).toBeGreaterThan(2);
  const reasons = basket.changes.map(({ reason }) => reason).filter((reason) => reason.startsWith("A click is worth"));
  expect(reasons.length).toBeGreaterThan(2);
  expect(
    reasons.every((reason) => /^A click is worth \d+\.\d\d of sales by evidence; the goal is \d/.test(reason)),
  ).toBe(true);
});
