import type { Page } from "@playwright/test";
import { DEMO, expectAccessible } from "./helpers";
import { expect, test } from "./site";

const VIEWS: [name: string, path: string, heading: string][] = [
  ["today", "", "Today"],
  ["catalogue", "/catalogue", "Catalogue"],
  ["item panel", "/catalogue?item=Q00010&days=90", "Catalogue"],
  ["upload", "/catalogue?upload=true", "Catalogue"],
  ["feed", "/catalogue/feed", "Catalogue"],
  ["fields", "/catalogue/fields", "Catalogue"],
  ["rule builder", "/catalogue/fields/season", "Season"],
  ["new derived field", "/catalogue/fields/new", "New derived field"],
  ["categories", "/catalogue/categories", "Catalogue"],
  ["faults", "/catalogue/faults", "Catalogue"],
  ["shelves", "/shelves", "Shelves"],
  ["edit shelves", "/shelves?edit=true", "Edit Return by chance"],
  ["movements", "/shelves/movements", "Movements"],
  ["claims", "/shelves/claims", "Claims"],
  ["labels", "/shelves/labels", "Labels"],
  ["planogram", "/planogram", "Planogram"],
  ["builder", "/planogram?plan=new", "Plan the structure"],
  ["copy", "/copy", "Copy"],
  ["running ads", "/copy/running", "Running ads"],
  ["targets", "/targets", "Targets"],
  ["listings", "/targets/listings", "Listings"],
  ["keywords", "/targets/keywords", "Keywords"],
  ["ledger", "/targets/ledger", "Ledger"],
  ["defence", "/targets/defence", "Defence"],
  ["demand", "/targets/demand", "Targets"],
  ["bids", "/bids", "Bids"],
  ["page, not bid", "/bids/page-work", "Bids"],
  ["budgets", "/budgets", "Budgets"],
  ["exclusions", "/exclusions", "Exclusions"],
  ["placements", "/exclusions/placements", "Placements"],
  ["moves", "/moves", "Moves"],
  ["standing orders", "/moves/orders", "Moves"],
  ["what came of moves", "/moves/record", "Moves"],
  ["house rules", "/moves/rules", "Moves"],
  ["experiments", "/experiments", "Experiments"],
  ["stocktake, none yet", "/stocktake", "Stocktake"],
  ["dispatch", "/dispatch", "Dispatch"],
  ["channel", "/dispatch/channel", "Dispatch"],
  ["results", "/results", "Results"],
  ["results by term and campaign", "/results?level=term&split=campaign&lang=share&chart=scatter", "Results"],
  ["report files", "/results/reports", "Results"],
  ["test market", "/results/market", "Results"],
];

/** What goes wrong in a page from now on, as its console says it. */
function errorsOf(page: Page): string[] {
  const errors: string[] = [];
  page.on("pageerror", (error) => errors.push(error.message));
  page.on("console", (message) => message.type() === "error" && errors.push(message.text()));
  return errors;
}

for (const [name, path, heading] of VIEWS) {
  test(`${name} is accessible and quiet in both themes`, async ({ page }) => {
    const errors = errorsOf(page);
    await page.goto(DEMO + path);
    await expect(page.getByRole("heading", { level: 1, name: heading, includeHidden: true })).toBeVisible();
    await expect(page.getByText(/^Loading .* …$/)).toHaveCount(0);
    // Nor does a figure stand out for good.
    await expect(page.getByText("…", { exact: true })).toHaveCount(0);
    await expectAccessible(page);
    // The other theme differs in its colours alone; that it stays over a reload has a test of its own.
    await page.locator("html").evaluate((html) => html.setAttribute("data-theme", "dark"));
    await expectAccessible(page, ["color-contrast"]);
    expect(errors).toEqual([]);
  });
}

test("the door lists workspaces and is accessible and quiet", async ({ page }) => {
  const errors = errorsOf(page);
  await page.goto("/?all=1");
  await expect(page.getByRole("link", { name: /Quillmoor/ })).toBeVisible();
  await expect(page.getByLabel("Shop name")).toBeVisible();
  await expectAccessible(page);
  expect(errors).toEqual([]);
});

test("an address that names nothing says so", async ({ page }) => {
  await page.goto("/w/nowhere/catalogue");
  await expect(page.getByRole("heading", { name: "Nothing stands here" })).toBeVisible();
  await expectAccessible(page);
});
