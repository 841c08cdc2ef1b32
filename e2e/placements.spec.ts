import type { Page } from "@playwright/test";
import type { PlacementsView } from "../src/server/exclusions/placements/placements";
import { api, DEMO, expectAccessible } from "./helpers";
import { expect, test } from "./site";

/** A review of placements: what is unsafe goes out, what is doubtful is noted, and a list from elsewhere is taken in. */
test.describe.configure({ mode: "serial" });

const view = (page: Page, show = "all") =>
  api<PlacementsView>(page, `quillmoor/placements?show=${encodeURIComponent(show)}`);
const table = (page: Page) => page.getByRole("table", { name: "Placements" });
const pill = (page: Page, name: string) =>
  page.getByRole("group", { name: "What is shown" }).getByRole("button", { name });
const bar = (page: Page) => page.getByRole("group", { name: "Picked lines" });

test("what is unsafe is kept out, and it is said first what stops and what nobody reports", async ({ page }) => {
  const before = await view(page);
  expect(before.counts.unsafe).toBeGreaterThan(0);
  await page.goto(DEMO);
  await page.getByRole("link", { name: "Review placements" }).click();
  await expect(page.getByRole("heading", { name: "Placements", level: 1 })).toBeVisible();
  await page.getByRole("button", { name: "By kind" }).click();
  await expect(page.getByRole("table", { name: "Partner media by kind" }).getByRole("row").nth(1)).toBeVisible();
  await expectAccessible(page);
  await page.getByRole("button", { name: "By kind" }).click();
  await pill(page, "Unsafe").click();
  await expect(table(page).getByRole("row")).toHaveCount(before.counts.unsafe + 1);
  await table(page).getByRole("checkbox").first().click();
  await bar(page).getByRole("button", { name: "Keep out …" }).click();
  const dialog = page.getByRole("dialog", { name: `Keep ${before.counts.unsafe} placements out` });
  const unsafe = before.lines.filter(({ triage }) => triage === "unsafe");
  const impressions = unsafe.reduce((sum, one) => sum + one.impressions, 0).toLocaleString("en");
  await expect(dialog.getByText(`with ${impressions} impressions.`)).toBeVisible();
  await expect(dialog.getByText("What they cost and brought is not reported.")).toBeVisible();
  await expect(dialog.getByText(/0 clicks|spend €0\.00/)).toHaveCount(0);
  await expect(dialog.getByLabel("Why")).toHaveValue("unsafe");
  await dialog.getByRole("button", { name: "Put into the basket" }).click();
  await expect(dialog).toHaveCount(0);
  await expect(pill(page, "Kept out")).toContainText(String(unsafe.length));
  await expect(pill(page, "To look at")).toContainText(String(before.counts.all - unsafe.length));
});

test("judgements are remembered, and one step takes them back", async ({ page }) => {
  await page.goto(`${DEMO}/exclusions/placements?show=doubtful`);
  const { doubtful } = (await view(page)).counts;
  await table(page).getByRole("checkbox").nth(1).click();
  await table(page).getByRole("checkbox").nth(2).click();
  await bar(page).getByRole("button", { name: "Doubtful" }).click();
  await expect(page.getByText("2 placements doubtful")).toBeVisible();
  await expect(pill(page, "Judged")).toContainText("2");
  expect((await view(page)).counts).toMatchObject({ judged: 2, doubtful: doubtful - 2 });
  await page.getByRole("button", { name: "Take back" }).last().click();
  await expect.poll(async () => (await view(page)).counts).toMatchObject({ judged: 0, doubtful });
  await table(page).getByRole("checkbox").first().click();
  await bar(page).getByRole("button", { name: "Leave" }).click();
  await expect(page.getByText("No placement is like that.")).toBeVisible();
  await expect(page.getByText(/next look 20\d\d-/)).toBeVisible();
});

test("a pasted list is told apart line by line before anything is kept out", async ({ page }) => {
  const [known] = (await view(page, "fitting")).lines;
  await page.goto(`${DEMO}/exclusions/placements`);
  await page.getByRole("button", { name: "Paste a list …" }).click();
  const paste = page.getByRole("dialog", { name: "Keep a list of placements out" });
  await paste
    .getByLabel("One a line")
    .fill(`https://www.${known!.address}/?utm_source=x\n${known!.address}\nelsewhere.example\nTotal of all`);
  await paste.getByRole("button", { name: "Look at them" }).click();
  const found = page.getByRole("dialog", { name: "What was pasted" });
  await expect(found.getByText("1 placement", { exact: true })).toBeVisible();
  await expect(found.getByText("elsewhere.example")).toBeVisible();
  await expect(found.getByText(/1 line is no address and stays out of this: Total of all/)).toBeVisible();
  await expectAccessible(page);
  await found.getByRole("checkbox", { name: "Keep these out too" }).uncheck();
  await found.getByRole("button", { name: "Where and why" }).click();
  await expect(page.getByRole("dialog", { name: "Keep 1 placement out" })).toHaveCount(1);
});

test("words that are not fit are one's own to set", async ({ page }) => {
  const word = "football";
  const { lines } = await view(page);
  const meant = lines.filter(
    ({ address, keptOut, review }) => address.includes(word) && keptOut === null && review === null,
  );
  expect(meant.length).toBeGreaterThan(0);
  await page.goto(`${DEMO}/exclusions/placements`);
  await page.getByRole("button", { name: "Unsafe words …" }).click();
  const dialog = page.getByRole("dialog", { name: "Words that are not fit" });
  await dialog.getByRole("textbox").fill(word);
  await dialog.getByRole("button", { name: "Keep these words" }).click();
  await expect(page.getByText("1 word counts as unsafe")).toBeVisible();
  await expect(pill(page, "Unsafe")).toContainText(String(meant.length));
  await page.getByRole("button", { name: "Take back" }).last().click();
  await expect.poll(async () => (await view(page)).counts.unsafe).toBe(0);
});

test("before items are excluded it is said what stops, and which of them pay", async ({ page }) => {
  const { items } = await api<{ items: { id: string }[] }>(page, "quillmoor/items?days=90&sort=-revenue&limit=1");
  await page.goto(`${DEMO}/catalogue?q=${items[0]!.id}`);
  await page.getByRole("table", { name: "Items" }).getByRole("checkbox").nth(1).click();
  await page.getByRole("button", { name: /^Exclude/ }).click();
  const stops = page.getByRole("dialog").getByRole("status", { name: "What stops" });
  await expect(stops).toContainText(/In the last 90 days they had [\d,]+ clicks?, spend €/);
  const told = (await page.request
    .post("/api/v1/quillmoor/exclusions/look", { data: { items: [items[0]!.id] } })
    .then((answer) => answer.json())) as { sums: { clicks: number }; paid: number };
  await expect(stops).toContainText(`${told.sums.clicks.toLocaleString("en")} click`);
  await expect(stops.getByText(/brought the goal of/)).toHaveCount(told.paid > 0 ? 1 : 0);
});
