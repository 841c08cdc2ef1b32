import { api, DEMO, expectAccessible } from "./helpers";
import { expect, test } from "./site";

/** Bids with what they stand on: by kind and method, typed, pasted, all at once, pushed until a day. */

interface Bids {
  lines: { key: string; name: string; bid: number; proposed: { bid: number } | null }[];
  total: number;
  proposed: number;
}
const bids = (page: Parameters<typeof api>[0], query: string) => api<Bids>(page, `quillmoor/bids?limit=100&${query}`);
const euros = (mills: number) => `€${(mills / 1000).toFixed(2)}`;

test("bids are found by kind and method, sorted, and opened to why there is none", async ({ page }) => {
  await page.goto(`${DEMO}/bids`);
  const table = page.getByRole("table", { name: "Bids" });
  const { lines, total } = await bids(page, "");
  await expect(table).toHaveAttribute("aria-rowcount", String(total + 1));
  await expect(table.getByRole("row").nth(1)).toContainText(lines[0]!.name.slice(0, 20));
  await expect(table.getByRole("row").nth(1)).toContainText(euros(lines[0]!.proposed!.bid));
  await expectAccessible(page);
  await page.getByRole("button", { name: /^Keywords/ }).click();
  await page.getByLabel("Method").selectOption({ label: "Low entry: just above the rate card’s low" });
  await page.getByLabel("Which are shown").selectOption("all");
  const low = await bids(page, "kind=keyword&method=low&show=all");
  await expect(table).toHaveAttribute("aria-rowcount", String(low.total + 1));
  await table.getByRole("button", { name: "Bid now" }).click();
  const sorted = await bids(page, "kind=keyword&method=low&show=all&sort=bid");
  await expect(page).toHaveURL(/sort=-?bid/);
  const isDown = page.url().includes("sort=-bid");
  const first = isDown ? sorted.lines.at(-1)! : sorted.lines[0]!;
  await expect(table.getByRole("row").nth(1)).toContainText(euros(first.bid));
  await page.getByRole("button", { name: /^Reach/ }).click();
  await expect(page.getByText("no rate card").first()).toBeVisible();
});

test("a bid is typed, others are picked, and all go into the basket with their reasons", async ({ page }) => {
  await page.goto(`${DEMO}/bids?sort=-clicks`);
  const { lines } = await bids(page, "sort=-clicks");
  const table = page.getByRole("table", { name: "Bids" });
  await expect(table.getByRole("row").nth(1)).toContainText(lines[0]!.key);
  await page.getByRole("main").focus();
  await page.keyboard.press("j");
  await page.keyboard.press("x");
  await table
    .getByRole("row")
    .nth(2)
    .getByRole("button", { name: /^Proposed bid of/ })
    .click();
  const cell = table.getByRole("row").nth(2).getByRole("textbox");
  await cell.fill("0.37");
  await cell.press("Enter");
  await expect(page.getByText("2 bids picked")).toBeVisible();
  await page.getByRole("button", { name: "Set …", exact: true }).click();
  const dialog = page.getByRole("dialog", { name: "Set 2 bids" });
  await expect(dialog.getByRole("status", { name: "What that changes" })).toContainText("€0.37");
  await expectAccessible(page);
  await dialog.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByText(/^2 bids set: .* in the basket/)).toBeVisible();
  await expect(dialog).toHaveCount(0);
  const { changes } = await api<{ changes: { text: string; reason: string }[] }>(page, "quillmoor/basket?limit=50");
  const reasons = changes.map(({ reason }) => reason);
  expect(reasons).toContain("Typed in the bid desk");
  expect(reasons).toContain("What a click leaves, at the price of money");
});

test("bids are pasted out of a spreadsheet, what can't be read is named, and a push ends on a day", async ({
  page,
}) => {
  await page.goto(`${DEMO}/bids?kind=keyword&show=all`);
  const { lines } = await bids(page, "kind=keyword&show=all");
  await page.getByRole("button", { name: "Paste bids" }).click();
  const paste = page.getByRole("dialog", { name: "Paste bids of keywords" });
  await paste.getByRole("textbox").fill(`${lines[0]!.name}\t0.31\nnonsense\n${lines[1]!.name}\t0,29`);
  await expect(paste.getByText(/^2 bids read\./)).toBeVisible();
  await expect(paste.getByText("1 line not read and left: “nonsense”")).toBeVisible();
  await paste.getByRole("button", { name: "Look what that changes" }).click();
  const dialog = page.getByRole("dialog", { name: "Set 2 bids" });
  await expect(dialog.getByRole("status", { name: "What that changes" })).toContainText("€0.31");
  await dialog.getByRole("button", { name: "Leave it" }).click();
  await page.getByRole("button", { name: /^Items/ }).click();
  await page.getByLabel("Which are shown").selectOption("with another bid proposed");
  await page.getByLabel("Method").selectOption({ label: "Push: over the rate card’s typical price, until a day" });
  await page.getByRole("checkbox", { name: "Select row 1", exact: true }).click();
  await page.getByRole("button", { name: "Set …", exact: true }).click();
  const push = page.getByRole("dialog", { name: "Set 1 bid" });
  await expect(push.getByText("Choose its last day first.")).toBeVisible();
  await expect(push.getByRole("button", { name: "Put into the basket" })).toBeDisabled();
  await push.getByLabel("Last day of the push").fill("2020-01-01");
  await expect(push.getByText("A push ends on a day to come.")).toBeVisible();
  await push.getByLabel("Last day of the push").fill("2099-01-01");
  await push.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByText(/^1 bid set: .* in the basket/)).toBeVisible();
});
