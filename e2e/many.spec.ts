import type { Page } from "@playwright/test";
import { api, choose, expectAccessible, jobsDone } from "./helpers";
import { expect, test } from "./site";

const HERE = "/w/many-pots";
const COUNT = 3000;

/** A workspace of its own with more items than one names one by one. */
async function makeShop(page: Page): Promise<void> {
  const settings = { slug: "many-pots", name: "Many Pots", currency: "EUR", timeZone: "Europe/Berlin" };
  const made = await page.request.post("/api/v1/workspaces", { data: settings });
  expect(made.ok()).toBe(true);
  const rows = Array.from({ length: COUNT }, (_, i) => `P${i},Pot number ${i},${5 + (i % 40)}.00,Maker ${i % 3}`);
  const feed = Buffer.from(`id,title,price,brand\n${rows.join("\n")}\n`);
  const read = await page.request.post("/api/v1/many-pots/feeds/main/refresh", {
    data: feed,
    headers: { "content-type": "application/octet-stream" },
  });
  expect(read.status()).toBe(202);
  await jobsDone(page, "many-pots");
}

const waiting = async (page: Page) => (await api<{ basket: number }>(page, "many-pots/till?days=7")).basket;

test.describe.configure({ mode: "serial" });

test("all that a filter finds is excluded as a job, and taken back as a whole", async ({ page }) => {
  await page.goto("/?all=1");
  await makeShop(page);
  await page.goto(`${HERE}/catalogue`);
  await expect(page.getByText("3,000 items found")).toBeVisible();
  await page.getByRole("checkbox", { name: "Select all rows found" }).click();
  await expect(page.getByText("3,000 items selected")).toBeVisible();
  await page.getByRole("button", { name: "Exclude", exact: true }).click();
  await page.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByText("Changing 3,000 items. You can go on meanwhile.")).toBeVisible();
  await expect(page.getByText("Excluded: wasteful for 3,000 items: 3,000 changes in the basket")).toBeVisible({
    timeout: 30_000,
  });
  expect(await waiting(page)).toBe(COUNT);
  // What lies in the basket names the items, not only their IDs, and is told a page at a time.
  await page.getByRole("link", { name: /^Basket · 3,000 changes/ }).click();
  await page.getByRole("searchbox", { name: "Search changes" }).fill("P17 ");
  await expect(page.getByText("Pot number 17", { exact: true })).toBeVisible();
  await page.getByRole("searchbox", { name: "Search changes" }).fill("");
  await expect(page.getByText("3,000 changes", { exact: true })).toBeVisible();
  await page.getByRole("button", { name: "Take back" }).click();
  await expect(page.getByText("Change taken back")).toBeVisible({ timeout: 30_000 });
  expect(await waiting(page)).toBe(0);
});

test("of two tabs on one derived field the second does not erase what the first kept", async ({ page, context }) => {
  const rule = (text: string) => ({
    when: { match: "all", of: [{ field: "title", op: "has-word", value: "pot" }] },
    then: [{ parts: [{ text }], by: " ", steps: [] }],
  });
  const field = { key: "kind", name: "Kind", kind: "text", secondName: "", replaces: null, rules: [rule("pot")] };
  expect((await page.request.post("/api/v1/many-pots/derived", { data: field })).ok()).toBe(true);
  await jobsDone(page, "many-pots");
  const other = await context.newPage();
  for (const tab of [page, other]) {
    await tab.goto(`${HERE}/catalogue/fields/kind`);
    await expect(tab.getByLabel("Name", { exact: true })).toHaveValue("Kind");
  }
  await page.getByLabel("Name", { exact: true }).fill("Kind of pot");
  await page.getByRole("button", { name: "Keep the field" }).click();
  await expect(page).toHaveURL(/catalogue\/fields$/);
  await other.getByLabel("Name", { exact: true }).fill("Sort of pot");
  await other.getByRole("button", { name: "Keep the field" }).click();
  await expect(
    other.getByText(/was changed meanwhile by .*\. Yours differs from it in: name\. Nothing was kept\./),
  ).toBeVisible();
  const names = async () =>
    (await api<{ fields: { name: string }[] }>(page, "many-pots/derived")).fields.map(({ name }) => name);
  expect(await names()).toEqual(["Kind of pot"]);
  // What was typed is still there, and can be kept all the same.
  await expect(other.getByLabel("Name", { exact: true })).toHaveValue("Sort of pot");
  await other.getByRole("button", { name: "Keep mine" }).click();
  await expect(other).toHaveURL(/catalogue\/fields$/);
  expect(await names()).toEqual(["Sort of pot"]);
  await other.close();
  await jobsDone(page, "many-pots");
});

test("before a feed is read its items are shown as understood, with what looks wrong", async ({ page }) => {
  const rows = Array.from({ length: 40 }, (_, i) => `P${i};Pot number ${i};${9 + i},50;Netz ${4 + (i % 3)},20 €`);
  const buffer = Buffer.from(`Price list of the pot shop\n\nid;title;EK;price\n${rows.join("\n")}\n`);
  await page.goto(`${HERE}/catalogue?upload=true`);
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("Feed file").setInputFiles({ name: "pots.csv", mimeType: "text/csv", buffer });
  await expect(dialog.getByText(/header in row 3/)).toBeVisible();
  await expect(dialog.getByText("0 of 40 rows can be read, 40 would be set aside")).toBeVisible();
  await dialog.getByRole("button", { name: "Read as the amount, without “netz”" }).first().click();
  await expect(dialog.getByText("40 of 40 rows can be read")).toBeVisible();
  await choose(dialog.getByRole("combobox", { name: "Column for Item cost" }), "EK");
  await expect(dialog.getByRole("alert").first()).toContainText(
    "The cost of 40 items of 40 with one is not below the price.",
  );
  const items = dialog.getByRole("region", { name: "Items as understood" });
  await expect(items.getByRole("row")).toHaveCount(11);
  await expect(items.getByRole("row").nth(1)).toContainText("€4.20");
  await expectAccessible(page);
  // A server that is gone is said, and what was seen of the items before does not stay as if it still held.
  await page.route("**/understood", (route) => route.abort());
  await choose(dialog.getByRole("combobox", { name: "Column for Item cost" }), "title");
  await expect(dialog.getByText("The server can't be reached.")).toBeVisible();
  await expect(items).toHaveCount(0);
});
