import { readFile } from "node:fs/promises";
import type { Page } from "@playwright/test";
import type { StocktakeLine, StocktakeView } from "../src/server/stocktake/stocktakes";
import { api, DEMO, expectAccessible } from "./helpers";
import { expect, test } from "./site";

/** Somebody takes stock, reads what is wrong, puts one thing aside, and sends the report to somebody who may not know whose it is. */
test.describe.configure({ mode: "serial" });

const found = (page: Page) => page.getByRole("region", { name: "What was found" });
const newest = async (page: Page) => {
  const [line] = await api<StocktakeLine[]>(page, "quillmoor/stocktakes");
  return api<StocktakeView>(page, `quillmoor/stocktakes/${line!.id}`);
};

test("says what is wrong in sentences, and leads to what mends it", async ({ page }) => {
  await page.goto(`${DEMO}/stocktake`);
  await expect(page.getByText("No stock was taken yet").first()).toBeVisible();
  await page.getByRole("button", { name: "Take stock" }).click();
  await expect(found(page).getByRole("listitem").first()).toBeVisible({ timeout: 60_000 });
  const { head } = await newest(page);
  await expect(found(page).getByRole("listitem")).toHaveCount(head.findings.length);
  // The demo's account is untidy on purpose.
  const faults = head.findings.map(({ fault }) => fault);
  expect(faults).toEqual(expect.arrayContaining(["leak", "waste-items", "sold-out", "below-goal"]));
  const campaigns = page.getByRole("table", { name: "Campaigns", exact: true });
  await expect(campaigns.getByRole("row").last()).toContainText(head.total.orders.toLocaleString("en-GB"));
  await campaigns.getByRole("button", { name: "ROAS" }).click();
  await expect(campaigns.getByRole("columnheader", { name: "ROAS" })).toHaveAttribute("aria-sort", "descending");
  await expectAccessible(page);
  await found(page)
    .getByRole("link", { name: /moves$/ })
    .first()
    .click();
  await expect(page.getByRole("heading", { level: 1, name: "Moves" })).toBeVisible();
  await expect(page).toHaveURL(/kind=/);
});

test("puts a finding aside with a reason, and takes it up again", async ({ page }) => {
  await page.goto(`${DEMO}/stocktake`);
  const before = (await newest(page)).head.findings.length;
  await expect(found(page).getByRole("listitem")).toHaveCount(before);
  await found(page)
    .getByRole("button", { name: /Put aside … Groups that are open/ })
    .click();
  const dialog = page.getByRole("dialog", { name: "Put a finding aside" });
  await expect(dialog.getByRole("button", { name: "Put aside" })).toBeDisabled();
  await dialog.getByLabel("Why").fill("It is the catch-all");
  await dialog.getByRole("button", { name: "Put aside" }).click();
  await expect(found(page).getByText("1 finding put aside")).toBeVisible();
  await found(page).getByText("1 finding put aside").click();
  await expect(found(page).getByText("It is the catch-all")).toBeVisible();
  await found(page)
    .getByRole("button", { name: /Take up again/ })
    .click();
  await expect(found(page).getByRole("listitem")).toHaveCount(before);
});

test("is sent masked: no name, ID or brand stands in the file, and a remark with one is refused", async ({ page }) => {
  await page.goto(`${DEMO}/stocktake`);
  await page.getByRole("button", { name: "Report …" }).click();
  const dialog = page.getByRole("dialog", { name: "The report" });
  await dialog.getByRole("checkbox", { name: "Dry campaigns" }).uncheck();
  await dialog.getByLabel(/^Mask names/).check();
  await expectAccessible(page);
  const saving = page.waitForEvent("download");
  await dialog.getByRole("button", { name: "Save as HTML" }).click();
  const html = await readFile(await (await saving).path(), "utf8");
  expect(html).toContain("Campaign 1");
  expect(html).not.toMatch(/quillmoor|thornlea|ottersby|gloves push|Q000\d/i);
  expect(html).not.toContain("<h2>Dry campaigns</h2>");
  await dialog.getByRole("button", { name: "Read and print" }).click();
  await expect(page.frameLocator("iframe").getByRole("heading", { name: "What was found" })).toBeVisible();
  await dialog.getByRole("button", { name: "Close" }).click();
  await page.getByRole("button", { name: /Remark … on Items/ }).click();
  const remark = page.getByRole("dialog", { name: "Remark on Items" });
  await remark.getByLabel("What you want to say about it").fill("Ask Thornlea for better pictures.");
  await remark.getByRole("button", { name: "Keep the remark" }).click();
  await expect(page.getByText("Ask Thornlea for better pictures.")).toBeVisible();
  await page.getByRole("button", { name: "Report …" }).click();
  await dialog.getByLabel(/^Mask names/).check();
  await dialog.getByRole("button", { name: "Save as HTML" }).click();
  await expect(page.getByText(/This file would still tell “thornlea”/)).toBeVisible();
  // The workbook has the tables alone, so the remark keeps nobody from it.
  const tables = page.waitForEvent("download");
  await dialog.getByRole("button", { name: "Save as XLSX" }).click();
  expect((await tables).suggestedFilename()).toMatch(/masked\.xlsx$/);
});

test("stands beside an earlier one, and is brought back once taken away", async ({ page }) => {
  await page.goto(`${DEMO}/stocktake`);
  const first = await newest(page);
  await page.getByRole("button", { name: "Take stock" }).click();
  await expect.poll(async () => (await newest(page)).id, { timeout: 60_000 }).toBeGreaterThan(first.id);
  await page.getByLabel("Compare with").selectOption(String(first.id));
  const panel = page.getByRole("dialog", { name: "What became of it" });
  await expect(panel.getByRole("heading", { name: `Still there, ${first.head.findings.length}` })).toBeVisible();
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Take this one away" }).click();
  await expect.poll(async () => (await newest(page)).id).toBe(first.id);
  await page.getByRole("button", { name: "Take back" }).click();
  await expect.poll(async () => (await newest(page)).id).toBeGreaterThan(first.id);
});
