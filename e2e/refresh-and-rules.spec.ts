import { readFileSync } from "node:fs";
import type { APIRequestContext } from "@playwright/test";
import { api, choose, DEMO, expectAccessible, jobsDone } from "./helpers";
import { expect, test, type Site } from "./site";

test.describe.configure({ mode: "serial" });

/** Tells the demo's feed host how to behave. */
async function standIn(
  request: APIRequestContext,
  site: Site,
  change: { mode?: string; version?: number },
): Promise<void> {
  const response = await request.post(site.standIns, { data: change });
  expect(response.ok()).toBe(true);
}

test("a refresh shows its difference, item by item, and what it does", async ({ page, request, site }) => {
  await page.goto(`${DEMO}/catalogue/feed`);
  await expect(page.getByRole("heading", { name: "What it changed" })).toBeVisible();
  await standIn(request, site, { version: 2 });
  await page.getByRole("button", { name: "Fetch now" }).click();
  await expect(page.getByText("Feed read", { exact: true })).toBeVisible();
  const [refresh] = await api<{ id: number; counts: Record<string, number> }[]>(page, "quillmoor/refreshes");
  expect(refresh!.counts["changed"]).toBeGreaterThan(20);
  const readings = page.getByRole("button", { name: new RegExp(`${refresh!.counts["changed"]} changed`) });
  await readings.first().click();
  const sold = page.getByRole("button", { name: /^Sold out/ });
  await expect(sold).toContainText(String(refresh!.counts["soldOut"]));
  await sold.click();
  await expect(page.getByText("in stock → out of stock").first()).toBeVisible();
  await expect(page.getByText(/\d+ items? sold out: \d+ still served/)).toBeVisible();
  await page.getByRole("button", { name: /^Gone/ }).click();
  await expect(page.getByText("gone", { exact: true }).first()).toBeVisible();
});

test("a feed host that fails leaves the catalogue in force, with the failure in sight", async ({
  page,
  request,
  site,
}) => {
  const before = await api<{ total: number }>(page, "quillmoor/items?limit=1");
  await page.goto(`${DEMO}/catalogue/feed`);
  await standIn(request, site, { mode: "page" });
  await page.getByRole("button", { name: "Fetch now" }).click();
  await expect(page.getByRole("alert").filter({ hasText: "feeds.quillmoor.example sent a web page" })).toBeVisible();
  await page.getByRole("link", { name: "Items" }).first().click();
  await expect(page.getByText(/stays in force/)).toBeVisible();
  await expect(page.getByText(`${before.total.toLocaleString("en")} items found`)).toBeVisible();
  await standIn(request, site, { mode: "to-private" });
  await page.goto(`${DEMO}/catalogue/feed`);
  await page.getByRole("button", { name: "Fetch now" }).click();
  await expect(page.getByRole("alert").filter({ hasText: "127.0.0.1 is a private address" })).toBeVisible();
  // When the host is itself again, nothing has changed, and the failure goes.
  await standIn(request, site, { mode: "fine" });
  await page.getByRole("button", { name: "Fetch now" }).click();
  await expect(page.getByRole("alert").filter({ hasText: "private" })).toHaveCount(0);
});

test("a derived field is built by rules, with a live preview, and used as a filter", async ({ page }) => {
  await page.goto(`${DEMO}/catalogue/fields`);
  await page.getByRole("link", { name: "New derived field" }).click();
  await page.getByLabel("Name", { exact: true }).fill("Trough or can");
  const first = page.getByRole("region", { name: "Rule 1" });
  await first.getByLabel("Values, one a line").fill("can, trough");
  await first.getByLabel("Text 1").fill("vessel");
  await expect(first.getByText(/gives the value of \d+ items/)).toBeVisible();
  // The word also stands inside others, which the rule says without being asked.
  await first.getByLabel("Values, one a line").fill("can\nhouse");
  await expect(first.getByText(/“house” also stands inside other words/)).toBeVisible();
  await first.getByLabel("Values, one a line").fill("can, trough");
  await page.getByRole("button", { name: "Rule for all the rest" }).click();
  const second = page.getByRole("region", { name: "Rule 2" });
  await second.getByRole("button", { name: /Change it/ }).click();
  await second.getByLabel("Units").fill("l");
  await page.getByLabel("Item IDs").fill("Q00160, nothing");
  await expect(page.getByText("1 ID not in the catalogue: nothing")).toBeVisible();
  await expect(page.getByText(/by rule 1/).first()).toBeVisible();
  await expectAccessible(page);
  await page.getByRole("button", { name: "Keep the field" }).click();
  await expect(page.getByText(/kept; the catalogue is being worked out anew/)).toBeVisible();
  await jobsDone(page, "quillmoor");

  const filter = encodeURIComponent('[{"field":"derived:trough-or-can","op":"is","value":"vessel"}]');
  const { total } = await api<{ total: number }>(page, `quillmoor/items?limit=1&filter=${filter}`);
  expect(total).toBeGreaterThan(10);
  await page.goto(`${DEMO}/catalogue?filter=${filter}&columns=id,derived:trough-or-can`);
  await expect(page.getByText(`${total} items found`)).toBeVisible();
  await expect(page.getByText("Trough or can is vessel")).toBeVisible();
  await expect(page.getByRole("columnheader", { name: "Trough or can" })).toBeVisible();
  await page.getByRole("row").nth(1).click();
  await expect(page.getByRole("dialog").getByText("by rule 1").first()).toBeVisible();
  await page.keyboard.press("Escape");

  // Fields that build on each other in a circle are refused with the path.
  await page.goto(`${DEMO}/catalogue/fields/season`);
  const rule = page.getByRole("region", { name: "Rule 1" });
  await choose(rule.getByLabel("Field", { exact: true }).first(), "Trough or can");
  await page.getByRole("button", { name: "Keep the field" }).click();
  await expect(page).toHaveURL(/catalogue\/fields$/);
  await page.goto(`${DEMO}/catalogue/fields/trough-or-can`);
  await choose(page.getByRole("region", { name: "Rule 1" }).getByLabel("Field", { exact: true }), "Season");
  await expect(page.getByText("These fields build on each other in a circle")).toBeVisible();
  await jobsDone(page, "quillmoor");
});

test("a fault is repaired by one click, and the repair can be taken back", async ({ page }) => {
  await page.goto(`${DEMO}/catalogue/faults`);
  const row = page.getByRole("row").filter({ hasText: "No brand" });
  await expect(row).toContainText("2");
  await row.getByRole("button", { name: "Derive it from the title" }).click();
  await expect(page.getByText(/Derived field "Brand, filled" made/)).toBeVisible();
  await jobsDone(page, "quillmoor");
  await page.reload();
  await expect(page.getByRole("row").filter({ hasText: "How grave" })).toBeVisible();
  await expect(page.getByRole("row").filter({ hasText: "No brand" })).toHaveCount(0);
  await page.goto(`${DEMO}/catalogue/fields`);
  await page.getByRole("button", { name: "Remove Brand, filled" }).click();
  await expect(page.getByText('Derived field "Brand, filled" removed')).toBeVisible();
  await jobsDone(page, "quillmoor");
});

test("landing pages are looked at, and what is wrong with them stands among the faults", async ({ page }) => {
  await page.goto(`${DEMO}/catalogue/faults`);
  await page.getByLabel("How many pages").fill("150");
  await page.getByRole("button", { name: "Look at them" }).click();
  await expect(page.getByText(/\d+ looked at, last/)).toBeVisible({ timeout: 60_000 });
  await jobsDone(page, "quillmoor");
  await page.reload();
  const row = page.getByRole("row").filter({ hasText: /Page missing|Another price on the page|Sold out in the shop/ });
  await expect(row.first()).toBeVisible();
  await row.first().getByRole("link", { name: "Show" }).click();
  await expect(page.getByText(/^\d+ items? found/)).toBeVisible();
});

test("bids and notes are pasted from a spreadsheet, a view is kept, and exported", async ({ page }) => {
  await page.goto(`${DEMO}/catalogue`);
  await page.getByRole("button", { name: "Paste", exact: true }).click();
  const dialog = page.getByRole("dialog");
  await dialog
    .getByLabel("Pasted cells")
    .fill("id\tbid\tnote\nQ00010\t0,71\tAsk Mia first\nQ00020\t0.71\t\nQ0nope\t1\t\n");
  await dialog.getByRole("button", { name: "Look them up" }).click();
  await expect(dialog.getByText("1 not: Q0nope")).toBeVisible();
  await dialog.getByRole("button", { name: "Set bid, note" }).click();
  await expect(page.getByText("Bid set to €0.71")).toBeVisible();
  await expect(page.getByText("1 note kept")).toBeVisible();
  await expect.poll(async () => (await api<{ basket: number }>(page, "quillmoor/till")).basket).toBeGreaterThan(0);
  await page.request.post("/api/v1/quillmoor/basket/remove", { data: { keys: "all" } });

  const where = {
    match: "any",
    of: [
      { field: "note", op: "filled", value: "" },
      {
        match: "all",
        of: [
          { field: "price", op: "at-least", value: "300000" },
          { field: "category1", op: "is", value: "Glasshouses" },
        ],
      },
    ],
  };
  await page.goto(
    `${DEMO}/catalogue?filter=${encodeURIComponent(JSON.stringify(where))}&columns=id,note,breakEven,price`,
  );
  const { total } = await api<{ total: number }>(
    page,
    `quillmoor/items?limit=1&filter=${encodeURIComponent(JSON.stringify(where))}`,
  );
  await expect(page.getByText(`${total} items found`)).toBeVisible();
  await expect(page.getByText("Ask Mia first")).toBeVisible();
  await page.getByRole("button", { name: "Views" }).click();
  await page.getByLabel("Name of this view").fill("Dear glass and notes");
  await page.getByRole("button", { name: "Keep", exact: true }).click();
  await expect(page.getByText('View "Dear glass and notes" kept')).toBeVisible();
  await page.goto(`${DEMO}/catalogue`);
  await page.getByRole("button", { name: "Views" }).click();
  await page.getByRole("button", { name: "Dear glass and notes", exact: true }).click();
  await expect(page.getByText(`${total} items found`)).toBeVisible();
  await expect(page.getByRole("columnheader", { name: "Break-even return" })).toBeVisible();

  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "CSV", exact: true }).click();
  const lines = readFileSync(await (await download).path(), "utf8")
    .trim()
    .split("\r\n");
  expect(lines[0]).toBe("id,title,Note,Break-even return,Price");
  expect(lines).toHaveLength(total + 1);
  const sheet = page.waitForEvent("download");
  await page.getByRole("link", { name: "XLSX" }).click();
  expect(
    readFileSync(await (await sheet).path())
      .subarray(0, 2)
      .toString(),
  ).toBe("PK");

  // Picking one item offers its whole family.
  await page.goto(`${DEMO}/catalogue?q=Q00010`);
  await page.getByRole("checkbox", { name: "Select row 1" }).check();
  await page.getByRole("button", { name: "Add their families" }).click();
  await expect(page.getByText(/more items? of their families selected/)).toBeVisible();
});

test("the category tree opens, sums, and leads to the items", async ({ page }) => {
  await page.goto(`${DEMO}/catalogue/categories`);
  await page.getByRole("button", { name: "Open Watering" }).click();
  const row = page.getByRole("row").filter({ hasText: "Hoses" });
  await expect(row).toBeVisible();
  const count = (await row.getByRole("cell").nth(1).innerText()).trim();
  await row.click();
  await expect(page.getByText(`${count} items found`)).toBeVisible();
});
