import { api, DEMO, expectAccessible } from "./helpers";
import { expect, test } from "./site";

/** From what is proposed to the basket: opened, adjusted, accepted, dismissed, put off, by house rules that can be set. */

interface Line {
  key: string;
  about: string;
  stake: number;
}
const moves = async (page: Parameters<typeof api>[0], query = "") =>
  api<{ lines: Line[]; total: number; stake: number }>(page, `quillmoor/moves?limit=1000&${query}`);

test("today shows the moves with the most at stake, and leads to all of them", async ({ page }) => {
  await page.goto(DEMO);
  const { lines, total } = await moves(page);
  const top = page
    .getByRole("region", { name: "Moves with the most at stake" })
    .or(page.locator("section").filter({ has: page.getByRole("heading", { name: "Moves with the most at stake" }) }));
  await expect(top.getByRole("listitem")).toHaveCount(4);
  await expect(top.getByRole("listitem").first()).toContainText(lines[0]!.about);
  await top.getByRole("link", { name: /^All .* moves$/ }).click();
  await expect(page.getByRole("heading", { level: 1, name: "Moves" })).toBeVisible();
  const table = page.getByRole("table", { name: "Moves" });
  await expect(table).toHaveAttribute("aria-rowcount", String(total + 1));
  await expect(table.getByRole("row").nth(1)).toContainText(lines[0]!.about);
  await expectAccessible(page);
});

test("a move is opened, its amount adjusted, and put into the basket with its reason", async ({ page }) => {
  await page.goto(`${DEMO}/moves?kind=item-bids`);
  const { lines } = await moves(page, "kind=item-bids");
  await expect(page.getByRole("table", { name: "Moves" }).getByRole("row").nth(1)).toContainText(lines[0]!.about);
  await page.getByRole("main").focus();
  await page.keyboard.press("j");
  await page.keyboard.press("Enter");
  const panel = page.getByRole("dialog");
  await expect(panel.getByRole("heading", { name: "Expected to change, a day" })).toBeVisible();
  await expect(panel.getByRole("status", { name: "What that changes" })).toContainText("1 move");
  await expectAccessible(page);
  await panel.getByLabel("Amount in EUR").fill("much");
  await expect(panel.getByText("An amount such as 0.45.")).toBeVisible();
  await expect(panel.getByRole("button", { name: "Put into the basket" })).toBeDisabled();
  await panel.getByLabel("Amount in EUR").fill("0.77");
  await expect(panel.getByRole("status", { name: "What that changes" })).toContainText("€0.77");
  await panel.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByText(/^1 move accepted: .* in the basket/)).toBeVisible();
  await expect(panel).toHaveCount(0);
  const basket = await api<{ changes: { from: string; reason: string }[] }>(page, "quillmoor/basket?limit=50");
  expect(basket.changes.length).toBeGreaterThan(0);
  expect(basket.changes.every(({ from }) => from === "moves")).toBe(true);
  // What waits in the basket is not proposed once more.
  expect((await moves(page, "kind=item-bids")).lines.map(({ key }) => key)).not.toContain(lines[0]!.key);
});

test("moves are dismissed for a reason, put off till a day, and opened again", async ({ page }) => {
  await page.goto(`${DEMO}/moves?kind=places`);
  const { lines, total } = await moves(page, "kind=places");
  await expect(page.getByRole("table", { name: "Moves" }).getByRole("row").nth(1)).toContainText(lines[0]!.about);
  await page.getByRole("checkbox", { name: "Select row 1", exact: true }).click();
  await page.getByRole("checkbox", { name: "Select row 2", exact: true }).click();
  await page.getByRole("button", { name: "Dismiss …" }).click();
  const dismiss = page.getByRole("dialog", { name: "Dismiss 2 moves" });
  await expect(dismiss.getByRole("button", { name: "Dismiss", exact: true })).toBeDisabled();
  await dismiss.getByLabel("Why").fill("we are sold out in spring");
  await expectAccessible(page);
  await dismiss.getByRole("button", { name: "Dismiss", exact: true }).click();
  await expect(page.getByText("2 moves dismissed.")).toBeVisible();
  await expect(page.getByRole("table", { name: "Moves" })).toHaveAttribute("aria-rowcount", String(total - 1));

  await page.getByRole("checkbox", { name: "Select row 1", exact: true }).click();
  await page.getByRole("button", { name: "Put off …" }).click();
  const later = page.getByRole("dialog", { name: "Put off 1 move" });
  await later.getByLabel("Show again on").fill("2020-01-01");
  await later.getByRole("button", { name: "Put off", exact: true }).click();
  await expect(page.getByText("Moves are put off till a day to come.")).toBeVisible();
  await later.getByLabel("Show again on").fill("2099-01-01");
  await later.getByRole("button", { name: "Put off", exact: true }).click();
  await expect(later).toHaveCount(0);

  await page.getByRole("combobox", { name: "Which are shown" }).selectOption("dismissed");
  await expect(page.getByRole("table", { name: "Moves" })).toHaveAttribute("aria-rowcount", "3");
  await page.getByRole("checkbox", { name: "Select all rows found" }).click();
  await page.getByRole("button", { name: "Open again" }).click();
  await expect(page.getByText("2 moves open again.")).toBeVisible();
  expect((await moves(page, "kind=places")).total).toBe(total - 1);
});

test("all of a kind are accepted after it was said what that changes, and taken back", async ({ page }) => {
  await page.goto(`${DEMO}/moves?kind=slots`);
  const { total } = await moves(page, "kind=slots");
  const waiting = async () => (await api<{ total: number }>(page, "quillmoor/basket?limit=1")).total;
  const before = await waiting();
  await page.getByRole("button", { name: `Accept all ${total} …` }).click();
  const dialog = page.getByRole("dialog", { name: new RegExp(`^Accept ${total} move`) });
  await expect(dialog.getByRole("status", { name: "What that changes" })).toContainText("a month at stake");
  await dialog.getByRole("button", { name: "Put into the basket" }).click();
  await expect(dialog).toHaveCount(0);
  await expect.poll(waiting).toBeGreaterThan(before);
  await page.getByRole("button", { name: "Take back" }).click();
  await expect.poll(waiting).toBe(before);
});

test("house rules are set within their ends, and shape what is proposed", async ({ page }) => {
  await page.goto(`${DEMO}/moves`);
  await page.getByRole("link", { name: "House rules" }).click();
  const step = page.getByLabel("Largest step of a bid");
  await expect(step).toHaveValue("100");
  await expect(page.getByText(/It holds back \d+ moves now/).first()).toBeVisible();
  await expectAccessible(page);
  await step.fill("900");
  await expect(page.getByText("From 5 to 400.")).toBeVisible();
  await step.fill("20");
  await page.getByRole("button", { name: "Set it" }).click();
  await expect(page.getByRole("button", { name: "Back to 100" })).toBeVisible();
  const bids = await api<{ lines: { amount: { from: number; to: number } }[] }>(page, "quillmoor/moves?kind=item-bids");
  expect(bids.lines.length).toBeGreaterThan(0);
  for (const { amount } of bids.lines) expect(amount.to / amount.from).toBeLessThanOrEqual(1.2 + 5 / amount.from);
  await page.getByRole("button", { name: "Back to 100" }).click();
  await expect(page.getByRole("button", { name: "Back to 100" })).toHaveCount(0);
  await page.getByRole("link", { name: "What came of them" }).click();
  await expect(page.getByText(/Of 1 accepted move 0 were sent|Nothing to look back on yet/)).toBeVisible();
  await expectAccessible(page);
});
