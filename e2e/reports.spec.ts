import { api, choose, DEMO, expectAccessible, jobsDone } from "./helpers";
import { expect, test } from "./site";

/** A report as somebody makes it by hand in a spreadsheet: lines on top, German headings, a totals row, one bad day. */
const REPORT = [
  "Wochenbericht",
  "Datum;Kampagne;Artikelnummer;Impressionen;Klicks;Kosten;Bestellungen;Umsatz",
  "01.03.2026;Herbst;a-1;1.000;20;10,50 €;2;60,00 €",
  "02.03.2026;Herbst;A-2;800;10;5,25 €;0;0,00 €",
  "02.03.2026;Herbst;ALT-9;100;1;1,00 €;0;0,00 €",
  "März;Herbst;a-1;1;1;1,00 €;0;0",
  "Gesamt;;;1.901;32;17,75 €;2;60,00 €",
].join("\n");

test("a report made by hand is mapped, read in, read again without counting twice, and taken back", async ({
  page,
}) => {
  await page.request.post("/api/v1/workspaces", {
    data: { slug: "reports", name: "Reports", currency: "EUR", timeZone: "Europe/Berlin", goal: 3 },
  });
  const feed = "id,title,price\nA-1,Rake,30\nA-2,Hoe,20\n";
  await page.request.post("/api/v1/reports/feeds/main/refresh", {
    data: feed,
    headers: { "content-type": "text/csv" },
  });
  await jobsDone(page, "reports");
  await page.goto("/w/reports/results");
  await page.getByRole("link", { name: "read in a report file" }).click();
  const readIn = async () => {
    await page.getByRole("button", { name: "Read in a report" }).click();
    await page
      .getByLabel("Report file", { exact: true })
      .setInputFiles({ name: "woche.csv", mimeType: "text/csv", buffer: Buffer.from(REPORT) });
    const dialog = page.getByRole("dialog");
    await expect(dialog.getByLabel("What it is")).toHaveValue("item");
    return dialog;
  };
  let dialog = await readIn();
  await expect(dialog.getByLabel("Decimal mark")).toHaveValue(",");
  await expect(dialog.getByLabel("Item ID", { exact: true })).toHaveValue("Artikelnummer");
  await expectAccessible(page);
  // Without its money the file can't be an item report, and the dialog says so before anything is read.
  await dialog.getByLabel("Spend", { exact: true }).selectOption("not in the file");
  await expect(dialog.getByText("Spend has no column.")).toBeVisible();
  await expect(dialog.getByRole("button", { name: "Read it in" })).toBeDisabled();
  await dialog.getByLabel("Spend", { exact: true }).selectOption("Kosten");
  await dialog.getByRole("button", { name: "Read it in" }).click();
  await expect(page.getByText("Report read in")).toBeVisible();
  const files = page.getByRole("table", { name: "Report files" });
  await expect(files).toContainText("1 item ID the catalogue does not have (ALT-9)");
  await expect(files).toContainText("1 row with totals left out.");
  await files.getByRole("button", { name: "1 row set aside" }).click();
  await expect(page.getByRole("dialog")).toContainText("“März” is no day".replace("“", '"').replace("”", '"'));
  await page.keyboard.press("Escape");

  const total = async () =>
    (await api<{ total: { cost: number; orders: number } }>(page, "reports/results?level=campaign")).total;
  expect(await total()).toMatchObject({ cost: 16_750, orders: 2 });
  dialog = await readIn();
  await expect(dialog.getByText("These columns were read before")).toBeVisible();
  await dialog.getByRole("button", { name: "Read it in" }).click();
  await expect(files.getByRole("button", { name: "Take back" })).toHaveCount(2);
  await expect(files).toContainText("2 days had been there before");
  expect(await total()).toMatchObject({ cost: 16_750, orders: 2 });

  await files.getByRole("button", { name: "Take back" }).first().click();
  await expect(page.getByText("Report taken back").first()).toBeVisible();
  await expect(files.getByRole("button", { name: "Take back" })).toHaveCount(1);
  await files.getByRole("button", { name: "Take back" }).first().click();
  await expect(files.getByRole("button", { name: "Take back" })).toHaveCount(0);
  await expect(page.getByRole("contentinfo")).toContainText("Results to none yet");
});

test("results are divided, narrowed down, spoken of as cost share, kept as a view and exported", async ({ page }) => {
  await page.goto(`${DEMO}/results?days=90`);
  const level = page.getByRole("combobox", { name: "Level" });
  await expect(page.getByRole("table", { name: "Campaigns" })).toContainText("Discovery, raised beds");
  // From a campaign to its ad group, and on to the items: what the lines add up to stays the same.
  await page.getByRole("button", { name: "Watering keywords", exact: true }).click();
  await expect(level).toHaveValue("Ad groups");
  await expect(page.getByRole("button", { name: "No longer only Watering keywords" })).toBeVisible();
  await expect(page.getByRole("table", { name: "Ad groups" })).toContainText("Watering keywords");
  const spend = page.getByRole("list", { name: "Figures" }).getByRole("button", { name: /^Spend/ });
  const before = await spend.textContent();
  await choose(level, "Terms");
  await expect(page.getByRole("table", { name: "Terms" })).toContainText("hoses");
  await expect(spend).toHaveText(before!);
  await page.getByRole("button", { name: "No longer only Watering keywords" }).click();
  // Each choice is waited for in the address, as no person makes three within a tenth of a second.
  await expect(page).not.toHaveURL(/within=/);
  await choose(level, "Slots");
  await expect(page).toHaveURL(/level=slot/);
  await choose(page.getByRole("combobox", { name: "Split" }), "Campaigns");
  await expect(page.getByRole("table", { name: "Slots" })).toContainText("Partner media");
  // No report divides slots by hour, so that is not offered.
  await expect(page).toHaveURL(/split=campaign/);
  await choose(level, "Hours");
  await expect(page).toHaveURL(/level=hour/);
  await page.getByRole("combobox", { name: "Split" }).fill("Slots");
  await expect(page.getByText("Nothing is called “Slots”.")).toBeVisible();
  await page.keyboard.press("Escape");
  await page.goto(`${DEMO}/results?level=hour&split=slot`);
  await expect(page.getByText("No report divides results by hour and slot at once.")).toBeVisible();
  // The way out that the sentence names is there.
  await choose(page.getByRole("combobox", { name: "Split" }), "Campaigns");
  // Hours stand in the order of the clock.
  await expect(page.getByRole("table", { name: "Hours" }).getByRole("row").nth(1)).toContainText("00:00");
  await page.goto(`${DEMO}/results?days=90&level=field:brand`);
  await page.getByRole("button", { name: "Cost share" }).click();
  const table = page.getByRole("table", { name: "Brand" });
  await expect(table.getByRole("columnheader", { name: "ACOS" })).toBeVisible();
  await expect(page.getByText(/goal 28.6 %/).first()).toBeVisible();
  // The days stand as a strip; a press unfolds it, and a figure brings its own days.
  await page.getByRole("button", { name: "Unfold the days" }).click();
  await page
    .getByRole("list", { name: "Figures" })
    .getByRole("button", { name: /^Ad orders/ })
    .click();
  await expect(page.getByRole("figure", { name: /^Ad orders, Spend and ACOS by day/ })).toBeVisible();
  await page.getByRole("button", { name: "Spend against cost share" }).click();
  await expect(page.getByRole("figure", { name: "Spend against ACOS" })).toBeVisible();

  await page.getByRole("button", { name: "Views" }).click();
  await page.getByLabel("Name of this view").fill("Brands by cost share");
  await page.getByRole("button", { name: "Keep" }).click();
  await expect(page.getByText('View "Brands by cost share" kept')).toBeVisible();
  await page.goto(`${DEMO}/results`);
  await page.getByRole("button", { name: "Views" }).click();
  await page.getByRole("button", { name: "Brands by cost share", exact: true }).click();
  await expect(page).toHaveURL(/level=field:brand/);
  await expect(page).toHaveURL(/lang=share/);
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("link", { name: "CSV" }).click(),
  ]);
  const text = await (await download.createReadStream()).toArray();
  const rows = Buffer.concat(text as Buffer[])
    .toString("utf8")
    .trim()
    .split("\n");
  expect(rows[0]).toMatch(/^.?Brand,Key,Spend/);
  expect(rows.at(-1)).toMatch(/^Everything/);
});

test("two versions of the account are run side by side, and what the channel told of demand answers", async ({
  page,
}) => {
  test.setTimeout(180_000);
  await page.request.post("/api/v1/quillmoor/basket/remove", { data: { keys: "all" } });
  await page.goto(`${DEMO}/results/market`);
  await page.getByRole("combobox", { name: "Days to compare" }).selectOption("7");
  await page.getByRole("button", { name: "Compare" }).click();
  const table = page.getByRole("table", { name: "Versions compared" });
  await expect(table).toContainText("Share of the limit", { timeout: 120_000 });
  // The basket is empty, so both versions are the same to the cent: the draws are.
  for (const row of await table.getByRole("row").all()) {
    const [a, b] = await row
      .getByRole("cell")
      .allTextContents()
      .then((cells) => cells.slice(1, 3));
    if (a !== undefined) expect(a).toBe(b);
  }
  await page.goto(`${DEMO}/targets/demand`);
  await page.getByLabel("One a line").fill("hoses\nzeppelin");
  await page.getByRole("button", { name: "Estimate" }).click();
  const card = page.getByRole("table", { name: "Rate card" });
  await expect(card.getByRole("row").nth(1)).toContainText("€");
  await expect(card.getByRole("row").nth(2)).toContainText("not known");
  await page.getByRole("button", { name: "Watering > Hoses" }).click();
  await expect(page.getByRole("region", { name: "Inside Watering > Hoses" })).toContainText("how to use hoses");
});
