import type { Page } from "@playwright/test";
import { api, DEMO, expectAccessible, jobsDone } from "./helpers";
import { expect, test } from "./site";

/** From an item that is launched to a term that is harvested, sent and in use, with what was decided against kept in mind. */
test.describe.configure({ mode: "serial" });

interface Ledger {
  lines: { place: string; what: string | null; entry: { state: string; reason: string } | null }[];
  counts: Record<string, number>;
}
const ledger = (page: Page, query: string) => api<Ledger>(page, `quillmoor/ledger?${query}`);
const inBasket = (page: Page) => page.getByText(/\d+ changes? in the basket$/).first();
const table = (page: Page) => page.getByRole("table", { name: "Ledger" });
const bar = (page: Page) => page.getByRole("group", { name: "Picked lines" });

let launched: string[] = [];
let harvested = "";

test("an item is launched with discovery, keywords, rival pages, its own pages and brand in a dozen clicks", async ({
  page,
}) => {
  await page.goto(`${DEMO}/targets`);
  await page.getByRole("button", { name: "Launch items" }).click();
  const dialog = page.getByRole("dialog", { name: /Launch/ });
  await dialog.getByLabel("Search items").fill("Q00180");
  await dialog
    .getByRole("checkbox", { name: /^Show / })
    .first()
    .check();
  await dialog.getByRole("button", { name: "Show the campaigns" }).click();
  const parts = dialog.getByRole("region");
  await expect(parts.first()).toBeVisible();
  await expectAccessible(page);
  await dialog.getByLabel("Name").fill("Reach can");
  await expect(dialog.getByRole("region", { name: "Reach can · keywords" })).toBeVisible();
  // A bid is set in place, and a page is left out.
  const keywords = dialog.getByRole("region", { name: "Reach can · keywords" });
  await keywords
    .getByRole("button", { name: /^Bid of .* exact: / })
    .first()
    .click();
  await keywords.getByRole("textbox").fill("0.77");
  await keywords.getByRole("textbox").press("Enter");
  await expect(keywords).toContainText("€0.77");
  const pages = dialog.getByRole("region", { name: "Reach can · rival pages" });
  await pages
    .getByRole("button", { name: /^Leave out / })
    .first()
    .click();
  await expect(pages.getByRole("button", { name: /^Take back / })).toHaveCount(1);
  await expect(dialog.getByRole("status")).toContainText(
    "A day costs up to €10.00, €12.50 after days that left money over.",
  );
  launched = await parts.evaluateAll((all) => all.map((part) => part.getAttribute("aria-label")!));
  await dialog.getByRole("button", { name: "Put into the basket" }).click();
  await expect(inBasket(page)).toBeVisible();
  const { targets } = await api<{ targets: { campaignName: string; bid: number; waiting: string | null }[] }>(
    page,
    "quillmoor/targets",
  );
  const own = targets.filter(({ campaignName }) => launched.includes(campaignName));
  expect(new Set(own.map(({ campaignName }) => campaignName))).toEqual(new Set(launched));
  expect(own.some(({ bid }) => bid === 770)).toBe(true);
  expect(own.every(({ waiting }) => waiting === "new")).toBe(true);
});

test("what sold is harvested from the ledger in one step, and used once it was sent", async ({ page }) => {
  await page.goto(`${DEMO}/targets/ledger`);
  await expectAccessible(page);
  const { lines } = await ledger(page, "show=harvest");
  harvested = lines[0]!.place;
  await expect(table(page).getByRole("row").nth(1)).toContainText(harvested);
  await table(page).getByRole("checkbox").nth(1).check();
  await bar(page).getByRole("button", { name: "Harvest …" }).click();
  const dialog = page.getByRole("dialog", { name: "Harvest 1 line" });
  await expect(dialog.getByRole("table", { name: "What is made" })).toContainText(harvested);
  await dialog.getByRole("checkbox", { name: /Keep each out of the campaigns/ }).check();
  await expect(dialog).toContainText("kept out of");
  await expectAccessible(page);
  await dialog.getByRole("button", { name: "Put into the basket" }).click();
  await expect(inBasket(page)).toBeVisible();
  const find = `show=used&q=${encodeURIComponent(harvested)}`;
  await expect.poll(async () => (await ledger(page, find)).lines[0]?.entry?.state).toBe("waiting");
  await page.goto(`${DEMO}/dispatch`);
  await page.getByRole("button", { name: "Send to the test market" }).click();
  await jobsDone(page, "quillmoor");
  await expect.poll(async () => (await ledger(page, find)).lines[0]?.entry?.state).toBe("in use");
});

test("what somebody decides against is proposed no more, until it is judged again", async ({ page }) => {
  await page.goto(`${DEMO}/targets/ledger`);
  const first = (await ledger(page, "show=harvest")).lines[0]!.place;
  expect(first).not.toBe(harvested);
  await table(page)
    .getByRole("row", { name: new RegExp(first) })
    .getByRole("checkbox")
    .first()
    .check();
  await bar(page).getByRole("button", { name: "Decide against …" }).click();
  const dialog = page.getByRole("dialog", { name: "Decide against 1 line" });
  await dialog.getByLabel("Why").fill("not our season");
  await dialog.getByRole("button", { name: "Decide against" }).click();
  await expect(dialog).toHaveCount(0);
  await expect(table(page).getByText(first, { exact: true })).toHaveCount(0);
  await page
    .getByRole("group", { name: "What is shown" })
    .getByRole("button", { name: /^Decided against/ })
    .click();
  await expect(table(page)).toContainText("not our season");
  await table(page).getByRole("checkbox").nth(1).check();
  await bar(page).getByRole("button", { name: "Judge again" }).click();
  await expect(page.getByText("Nobody decided against a term or listing")).toBeVisible();
});

test("pasted lines are terms or pages by what is known of them, and what could be either is asked", async ({
  page,
}) => {
  const pages = await api<{ listing: string; kind: string }[]>(page, "quillmoor/listings");
  const listing = pages.find(({ kind }) => kind === "rival")!.listing;
  await page.goto(`${DEMO}/exclusions`);
  await page.getByRole("button", { name: /^Keep (more|something) out$/ }).click();
  const paste = page.getByRole("dialog", { name: "Keep out" });
  await paste.getByLabel("One a line").fill(`cheap gloves\n${listing}\n4711`);
  await paste.getByRole("button", { name: "Where and why" }).click();
  const dialog = page.getByRole("dialog", { name: "Keep 1 term and 1 page out" });
  await expect(dialog).toContainText("1 line could be either");
  await expect(dialog.getByRole("status")).toContainText("it would have stopped 2 terms and pages");
  await expectAccessible(page);
  await dialog.getByLabel("1 line could be either").selectOption("listing");
  await expect(page.getByRole("dialog", { name: "Keep 1 term and 2 pages out" })).toHaveCount(1);
  // Leaving it goes back to what was pasted.
  await page.getByRole("button", { name: "Leave it" }).click();
  await expect(paste.getByLabel("One a line")).toHaveValue(`cheap gloves\n${listing}\n4711`);
});
