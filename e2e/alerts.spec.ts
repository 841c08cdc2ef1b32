import { readFile } from "node:fs/promises";
import type { Digest } from "../src/core/alerts/digest";
import { formatMoney } from "../src/core/kit/money";
import { api, DEMO, expectAccessible } from "./helpers";
import { expect, test } from "./site";

/** What is watched speaks up by itself, is put aside with a reason, and each week is told. */
test.describe.configure({ mode: "serial" });

test("an alert speaks up by its limit, and is put aside until it is quiet again", async ({ page }) => {
  await page.goto(`${DEMO}/alerts`);
  const row = (name: string) => page.getByRole("table", { name: "Alerts" }).getByRole("row", { name });
  await expect(row("The feed is older than")).toContainText("The feed was read");
  await expectAccessible(page);
  // A limit that is none is said to be none, and what was there comes back.
  const limit = page.getByLabel("Limit: Spend a day moves by more than");
  await limit.fill("a lot");
  await limit.press("Enter");
  await expect(page.getByText("A number of % from 5 to 1000.")).toBeVisible();
  await expect(limit).toHaveValue("40");
  const weak = page.getByLabel("Limit: Return falls below");
  await weak.fill("3");
  await weak.press("Enter");
  await expect(row("Return falls below")).toContainText("the limit is 10.50");
  await expect(row("Return falls below")).toContainText("Speaks up since");

  await page.goto(DEMO);
  const decision = page.getByRole("listitem").filter({ hasText: "the limit is 10.50" });
  await expect(decision).toBeVisible();
  await page.goto(`${DEMO}/alerts`);
  await row("Return falls below")
    .getByRole("button", { name: /Put aside/ })
    .click();
  const dialog = page.getByRole("dialog", { name: "Put an alert aside" });
  await dialog.getByLabel("Why").fill("A sale is on");
  await dialog.getByRole("button", { name: "Put aside" }).click();
  await expect(row("Return falls below")).toContainText("A sale is on");
  await page.goto(DEMO);
  await expect(page.getByRole("heading", { name: "Asks for a decision" })).toBeVisible();
  await expect(decision).toHaveCount(0);
});

test("an address that does not answer is said so, and kept", async ({ page }) => {
  await page.goto(`${DEMO}/alerts`);
  await page.getByLabel("Address").fill("http://127.0.0.1:9/hook");
  await page.getByRole("button", { name: "Keep", exact: true }).click();
  await expect(page.getByText(/whsec_/)).toBeVisible();
  await page.getByRole("button", { name: "Send a test" }).click();
  await expect(page.getByRole("list", { name: "Last messages" })).toContainText("A test waits for its next try");
  await page.reload();
  await expect(page.getByLabel("Address")).toHaveValue("http://127.0.0.1:9/hook");
  await expect(page.getByText(/whsec_/)).toHaveCount(0);
});

test("a week stands beside the week before, and is sent as a file", async ({ page }) => {
  await page.goto(`${DEMO}/weeks`);
  const table = page.getByRole("table", { name: "The week beside the week before" });
  const [line] = await api<{ id: number }[]>(page, "quillmoor/weeks");
  const week = await api<Digest>(page, `quillmoor/weeks/${line!.id}`);
  await expect(table.getByRole("row", { name: "Spend" })).toContainText(formatMoney(week.week.cost, "EUR"));
  await expectAccessible(page);
  const [file] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "HTML" }).click()]);
  const html = await readFile(await file.path(), "utf8");
  expect(html).toContain(formatMoney(week.week.revenue, "EUR"));
});
