import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import type { CopyProof } from "../src/server/copy/proof";
import type { CopyPlanInfo } from "../src/server/copy/plans";
import type { RunningAds } from "../src/server/copy/ads";
import { api, DEMO, expectAccessible, jobsDone } from "./helpers";
import { expect, test } from "./site";

/** From a new copy plan to ads that run, and on to a price that changes what they may say. */
test.describe.configure({ mode: "serial" });

const proofOf = async (page: Page): Promise<CopyProof> => {
  const [plan] = await api<CopyPlanInfo[]>(page, "quillmoor/copy-plans");
  const response = await page.request.post("/api/v1/quillmoor/copy-plans/proof", { data: { plan: plan!.definition } });
  return (await response.json()) as CopyProof;
};
const ads = (page: Page) => api<RunningAds>(page, "quillmoor/text-ads?days=90&limit=5000");
const lines = (page: Page) => page.getByRole("region", { name: "Lines" });
const previews = (page: Page) => page.getByRole("region", { name: "Previews" });

test("a plan is begun, and what is typed reads at once on the oddest items", async ({ page }) => {
  await page.goto(`${DEMO}/copy`);
  await page.getByRole("button", { name: "New copy plan" }).click();
  await expect(previews(page).getByRole("article").first()).toBeVisible();
  await expect(page.getByRole("button", { name: /Put \d+ ad groups into the basket/ })).toBeEnabled();
  await expectAccessible(page);
  await lines(page).getByRole("button", { name: "Add a headline" }).click();
  const last = lines(page)
    .getByRole("group", { name: /^Headline \d+$/ })
    .last();
  await last.getByRole("textbox").fill("Made for growers");
  await page.getByRole("button", { name: "All lines" }).click();
  await expect(previews(page).getByText("Made for growers").first()).toBeVisible();
  // A line that says too much stands for nobody, and says by how much.
  await last.getByRole("textbox").fill("Made for growers who use it every single week");
  await expect(last.getByRole("button", { name: /too long, by up to 9/ })).toBeVisible();
  await page.getByRole("button", { name: "Take back" }).click();
  await expect(last.getByRole("button", { name: /too long/ })).toHaveCount(0);
  await page.getByRole("button", { name: "Keep", exact: true }).click();
  await expect(page.getByText("“Text ads” is kept.")).toBeVisible();
  // The numbers beside rungs open the ad groups that they count.
  await lines(page)
    .getByRole("button", { name: /^Headline 1, rung 5: [\d,]+ ad groups$/ })
    .click();
  const dialog = page.getByRole("dialog");
  await expect(dialog.getByRole("table").getByRole("row").nth(1)).toBeVisible();
  await dialog.getByRole("button", { name: "Close" }).click();
});

test("what must not be said is held back until somebody lets it pass", async ({ page }) => {
  await page.goto(`${DEMO}/copy?part=groups`);
  await page.getByLabel("Words that no line may have").fill("growers");
  await page.getByLabel("Words that no line may have").blur();
  await page.getByRole("link", { name: /^Proof/ }).click();
  const cause = page.getByRole("button", { name: /A word that is not to be used/ });
  await expect(cause).toBeVisible();
  await expectAccessible(page);
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "Warnings as CSV" }).click(),
  ]);
  expect(readFileSync(await download.path(), "utf8")).toContain("A word that is not to be used");
  await page.getByRole("button", { name: /^Let all \d+ pass$/ }).click();
  await expect(page.getByText(/texts? may go out\.$/)).toBeVisible();
  await expect(page.getByRole("heading", { name: "Nothing is held back" })).toBeVisible();
  await page.getByRole("button", { name: "Take back" }).last().click();
  await expect(cause).toBeVisible();
});

test("only what is proved goes out, and what went out is what the proof said", async ({ page }) => {
  const { going, causes } = await proofOf(page);
  expect(causes.map(({ cause }) => cause)).toEqual(["banned"]);
  await page.goto(`${DEMO}/copy?part=keywords`);
  await expect(page.getByRole("region", { name: "Keywords made" })).toContainText("keywords for");
  await expectAccessible(page);
  await page.getByRole("button", { name: `Put ${going} ad groups into the basket` }).click();
  await expect(page.getByRole("button", { name: "Send to the test market" })).toBeEnabled();
  await page.getByRole("button", { name: "Send to the test market" }).click();
  await expect(page.getByText("Dispatch sent")).toBeVisible();
  await jobsDone(page, "quillmoor");
  const sent = await ads(page);
  expect(sent.counts.all).toBe(going);
  expect(sent.ads.every(({ waiting }) => waiting === null)).toBe(true);
  const said = sent.ads.flatMap(({ headlines, descriptions }) => [...headlines, ...descriptions]).join("\n");
  expect(said).not.toMatch(/growers/i);
});

test("ads run, and a price that changes lists the lines that still say the old one", async ({
  page,
  request,
  site,
}) => {
  await page.request.post("/api/v1/quillmoor/market/run", { data: { days: 10 } });
  await jobsDone(page, "quillmoor");
  await page.goto(`${DEMO}/copy/running`);
  await expectAccessible(page);
  expect((await ads(page)).ads.reduce((sum, { sums }) => sum + sums.clicks, 0)).toBeGreaterThan(0);
  expect((await ads(page)).counts.lapsed).toBe(0);
  // One ad is written by hand before the feed moves.
  const table = page.getByRole("table", { name: "Text ads" });
  await table.getByRole("row").nth(1).getByRole("button").click();
  const dialog = page.getByRole("dialog");
  const headlines = dialog.getByLabel("Headlines, one a line");
  await headlines.fill(`Chosen by our gardeners\n${await headlines.inputValue()}`);
  await dialog.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByText(/Lines of an ad written by hand/).first()).toBeVisible();

  expect((await request.post(site.standIns, { data: { version: 2 } })).ok()).toBe(true);
  await page.goto(`${DEMO}/catalogue/feed`);
  await page.getByRole("button", { name: "Fetch now" }).click();
  await expect(page.getByText("Feed read", { exact: true })).toBeVisible();
  await jobsDone(page, "quillmoor");
  await page.goto(`${DEMO}/copy/running?only=lapsed`);
  await expect(table.getByRole("row").nth(1)).toContainText(/says .* now /);
  const { lapsed } = (await ads(page)).counts;
  expect(lapsed).toBeGreaterThan(0);

  // Written anew, they say what is so now; what somebody wrote stays.
  await page.getByRole("link", { name: "Text ads", exact: true }).click();
  await page.getByRole("button", { name: /Put \d+ ad groups into the basket/ }).click();
  await expect(page.getByRole("button", { name: "Send to the test market" })).toBeEnabled();
  const after = await ads(page);
  // What a person wrote goes on saying what it said, and is still listed where that is no longer so.
  expect(after.ads.filter((ad) => ad.lapsed.length > 0 && !ad.byHand)).toEqual([]);
  expect(lapsed).toBeGreaterThan(after.counts.lapsed);
  const own = after.ads.filter(({ headlines: all }) => all[0] === "Chosen by our gardeners");
  expect(own.map(({ byHand }) => byHand)).toEqual([true]);
});
