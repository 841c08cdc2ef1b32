import { api, DEMO, expectAccessible } from "./helpers";
import { expect, test } from "./site";

/** What money brings, campaign by campaign; a total shared out into the basket; the month held against its plan. */

interface Desk {
  lines: { key: string; spent: number; next: { sales: number; left: number | null }; ceiling: number | null }[];
}
interface Basket {
  changes: { text: string; reason: string }[];
}

test("a campaign's money is opened: its curve, the next of it, and a way to change it", async ({ page }) => {
  await page.goto(`${DEMO}/budgets`);
  const table = page.getByRole("table", { name: "Budgets of campaigns" });
  const { lines } = await api<Desk>(page, "quillmoor/budgets/returns");
  const gloves = lines.find(({ key }) => key === "c:gloves")!;
  const row = table.getByRole("row").filter({ hasText: "Gloves push" });
  await expect(row).toContainText(`${gloves.next.left!.toFixed(2)}${gloves.next.sales.toFixed(2)} of sales`);
  // The one whose next unit brings most stands first, or last.
  await page.getByRole("button", { name: "Next one brings" }).click();
  await expect(page).toHaveURL(/sort=-?next/);
  await row.getByText("Gloves push").click();
  const panel = page.getByRole("dialog");
  await expect(
    panel.getByText(`brings ${gloves.next.sales.toFixed(2)} of sales, ${gloves.next.left!.toFixed(2)} after costs`),
  ).toBeVisible();
  await expect(panel.getByText(/^It ran dry on 14 of 14 days/)).toBeVisible();
  await expect(panel.getByRole("figure", { name: "Sales a day over spend a day" })).toBeVisible();
  await expectAccessible(page);
  await panel.getByRole("button", { name: "Change its budget" }).click();
  await expect(page.getByRole("heading", { name: /Gloves push/ })).toBeVisible();
});

test("a total is shared out within limits, looked at in numbers, and put into the basket", async ({ page }) => {
  await page.goto(`${DEMO}/budgets`);
  await page.getByRole("button", { name: "Share a total out" }).click();
  const dialog = page.getByRole("dialog", { name: "Share a total out" });
  const expected = dialog.getByRole("status", { name: "What is expected" });
  await expect(expected).toContainText("At the bids as they stand: spend");
  await expectAccessible(page);
  // What can't be is said, with what to do, and nothing can be sent.
  await dialog.getByLabel("EUR a day in all").fill("20");
  await dialog.getByLabel(/^Largest step/).fill("10");
  await expect(expected).toContainText("which is more than 20.00. Raise the total, or allow larger steps.");
  await expect(dialog.getByRole("button", { name: /into the basket/ })).toBeDisabled();
  await dialog.getByLabel("EUR a day in all").fill("100");
  await dialog.getByLabel(/^Largest step/).fill("");
  await dialog.getByLabel(/^Over a full day/).fill("");
  await dialog.getByLabel("How").selectOption({ label: "By hand, in parts" });
  await expect(expected).toContainText("No part is given.");
  await dialog.getByLabel("Part of All products").fill("50");
  await dialog.getByLabel("Part of Gloves push").fill("30");
  await dialog.getByLabel("Part of LED panels").fill("20");
  const line = (name: string) => dialog.getByRole("row").filter({ hasText: name });
  // What has no part gets the least there is: 1.00 each for four campaigns, and 96 are left.
  await expect(line("Discovery, raised beds")).toContainText("€1.00");
  await expect(line("All products")).toContainText("€48.00");
  await dialog.getByRole("button", { name: "Put 7 budgets into the basket" }).click();
  await expect(page.getByText(/7 daily budgets set, each to its own: 7 changes in the basket/)).toBeVisible();
  await expect(dialog).toHaveCount(0);
  const { changes } = await api<Basket>(page, "quillmoor/basket?limit=50");
  expect(changes.map(({ text }) => text).join("\n")).toContain("€144.00 → €48.00");
  expect(changes.every(({ reason }) => reason === "€100.00 shared out: by hand, in parts")).toBe(true);
  await expect(page.getByText("€100.00 a day over running campaigns")).toBeVisible();
});

test("the month is planned, held against spend, and the plan taken away", async ({ page }) => {
  await page.goto(`${DEMO}/budgets`);
  const month = page.getByRole("region", { name: "This month" });
  await expect(month).toContainText("at this pace about");
  await month.getByRole("button", { name: "Plan the month" }).click();
  const dialog = page.getByRole("dialog", { name: "What the month may cost" });
  await dialog.getByLabel("EUR in the whole month").fill("a lot");
  await expect(dialog.getByText("An amount such as 4500.")).toBeVisible();
  await expect(dialog.getByRole("button", { name: "Set the plan" })).toBeDisabled();
  await dialog.getByLabel("EUR in the whole month").fill("1000");
  await dialog.getByRole("button", { name: "Set the plan" }).click();
  await expect(month).toContainText("The plan of €1,000.00 is used up");
  await month.getByRole("button", { name: "Change the plan" }).click();
  await expectAccessible(page);
  await dialog.getByRole("button", { name: "Take the plan away" }).click();
  await expect(month).toContainText("at this pace about");
});
