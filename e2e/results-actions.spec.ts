import { api, DEMO, expectAccessible } from "./helpers";
import { expect, test } from "./site";

interface Basket {
  total: number;
}

test("terms that only cost are picked, held against the past, and kept out", async ({ page }) => {
  await page.goto(`${DEMO}/results?level=term&days=90`);
  const table = page
    .getByRole("grid", { name: "Terms" })
    .or(page.getByRole("table", { name: "Terms" }))
    .first();
  await expect(table.getByRole("checkbox").nth(1)).toBeVisible();
  const before = (await api<Basket>(page, "quillmoor/basket")).total;
  // The line without a term is left out of what is kept out.
  for (const row of [1, 2, 3]) await table.getByRole("checkbox").nth(row).click();
  const bar = page.getByRole("group", { name: "Picked lines" });
  await expect(bar).toContainText("3 lines picked");
  await bar.getByRole("button", { name: "Make negative" }).click();
  const dialog = page.getByRole("dialog", { name: "Keep 2 terms out" });
  await expect(dialog.getByRole("status")).toContainText(/would have stopped \d+ terms?/);
  await dialog.getByLabel("Stops").selectOption("phrase");
  await expect(dialog.getByRole("status")).toContainText(/would have stopped/);
  await expectAccessible(page);
  await dialog.getByLabel("Stops").selectOption("exact");
  await dialog.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByText("2 changes in the basket")).toBeVisible();
  await expect(bar).toHaveCount(0);
  expect((await api<Basket>(page, "quillmoor/basket")).total).toBe(before + 2);
});

test("items picked in results go onto a shelf, and a category becomes one", async ({ page }) => {
  await page.goto(`${DEMO}/results?level=item&days=90`);
  const rows = page
    .getByRole("grid", { name: "Items" })
    .or(page.getByRole("table", { name: "Items" }))
    .first();
  await expect(rows.getByRole("checkbox").nth(1)).toBeVisible();
  await rows.getByRole("checkbox").nth(1).click();
  await page.getByRole("group", { name: "Picked lines" }).getByRole("button", { name: "Put on a shelf" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("Name of the shelf").fill("From results");
  await dialog.getByLabel("In the set").selectOption("a new set");
  await dialog.getByRole("button", { name: "Put on the shelf" }).click();
  await expect(page.getByText("“From results” holds 1 item.")).toBeVisible();
  await page.goto(`${DEMO}/results?level=field:brand&days=90`);
  await page.getByRole("button", { name: "Put Thornlea on a shelf" }).click();
  await dialog.getByRole("button", { name: "Keep as a shelf" }).click();
  await expect(page.getByText(/“Thornlea” holds \d+ items\./)).toBeVisible();
});
