import { api, choose, expectAccessible } from "./helpers";
import { expect, test } from "./site";

/** A made-up lamp shop's messy feed: semicolons, decimal commas, Latin-1, faults. */
function lampFeed(items: number): Buffer {
  const kinds = ["Tischleuchte", "Hängeleuchte", "Wandleuchte", "Stehleuchte"];
  const rows = Array.from({ length: items }, (_, i) => {
    const price = i % 50 === 7 ? "auf Anfrage" : `${12 + (i % 90)},${String(i % 100).padStart(2, "0")} EUR`;
    return `L${i};${kinds[i % 4]} Nr. ${i} für Räume;${price};Leuchten | ${kinds[i % 4]};Marke ${i % 12};${i % 9 ? "lieferbar" : "ausverkauft"}`;
  });
  return Buffer.from(`Schlüssel;Bezeichnung;Preis;Kategorie;Marke;Lieferstatus\n${rows.join("\n")}\n`, "latin1");
}

// The second goes on with the workspace of the first, so one that fails is tried again from the start.
test.describe.configure({ mode: "serial" });

test("a person goes from their own feed to a dispatched structure", async ({ page }) => {
  await page.goto("/?all=1");
  await page.getByRole("button", { name: "Make workspace and choose a feed" }).click();
  await expect(page.getByText("Give the shop's name.")).toBeVisible();
  await page.getByLabel("Shop name").fill("Lampen Möller");
  await page.getByRole("button", { name: "Make workspace and choose a feed" }).click();

  // What is no feed is refused with a sentence.
  const dialog = page.getByRole("dialog");
  await expect(dialog.getByText("Drop the feed file here")).toBeVisible();
  await page.getByLabel("Feed file").setInputFiles({
    name: "photo.png",
    mimeType: "image/png",
    buffer: Buffer.from("\x89PNG\r\n\x1a\n0000", "latin1"),
  });
  await expect(dialog.getByRole("alert")).toContainText("This is a PNG picture, not a text feed.");

  await page
    .getByLabel("Feed file")
    .setInputFiles({ name: "lampen.csv", mimeType: "text/csv", buffer: lampFeed(1000) });
  await expect(dialog.getByText("parted by semicolons, Latin-1")).toBeVisible();
  await expectAccessible(page);
  // What the shop's own words mean is proposed; what it can't know is asked for.
  const proposed = {
    Title: "Bezeichnung",
    Price: "Preis",
    Category: "Kategorie",
    Brand: "Marke",
    Availability: "Lieferstatus",
  };
  for (const [field, column] of Object.entries(proposed)) {
    await expect(dialog.getByRole("combobox", { name: `Column for ${field}` })).toHaveValue(column);
  }
  await expect(dialog.getByText("Still needed: Item ID")).toBeVisible();
  await expect(dialog.getByRole("button", { name: "Read the feed" })).toBeDisabled();
  await choose(dialog.getByRole("combobox", { name: "Column for Item ID" }), "Schlüssel");
  // A column can be joined from several, and a field can be the same for every item.
  await choose(dialog.getByRole("combobox", { name: "Column for Title" }), "Several columns joined …");
  await dialog.getByRole("combobox", { name: "Column 2 joined for Title" }).selectOption("Marke");
  await expect(dialog.getByText("Tischleuchte Nr. 0 für Räume Marke 0")).toBeVisible();
  await choose(dialog.getByRole("combobox", { name: "Column for Title" }), "Bezeichnung");
  await dialog.getByRole("button", { name: "Read the feed" }).click();
  await expect(dialog.getByText("980 items in the catalogue")).toBeVisible({ timeout: 30_000 });
  await expect(dialog.getByText(/20 rows set aside/)).toBeVisible();
  await dialog.getByRole("button", { name: "Look at the items" }).click();
  await expect(page.getByText("Hängeleuchte Nr. 1 für Räume")).toBeVisible();
  await page.getByRole("link", { name: "20 rows set aside" }).click();
  await expect(page.getByText("Price not readable", { exact: true }).first()).toBeVisible();

  await page.getByRole("link", { name: "Today" }).click();
  await page.getByRole("link", { name: "Plan campaigns" }).click();
  await expect(page.getByText(/^4 campaigns · \d+ ad groups/)).toBeVisible();
  await page.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByText("4 campaigns new.")).toBeVisible();
  await page.getByRole("button", { name: "Send to the test market" }).click();
  await expect(page.getByText("Dispatch sent")).toBeVisible();
  await expect(page.getByRole("contentinfo")).toContainText("Leaks 0");

  await page.getByRole("link", { name: "Results", exact: true }).click();
  await page.getByRole("link", { name: "run some days of the test market" }).click();
  await page.getByRole("button", { name: "Run the test market" }).click();
  await expect(page.getByText("Test market run")).toBeVisible();
  await page.getByRole("navigation", { name: "Parts of the results" }).getByRole("link", { name: "Results" }).click();
  await expect(page.getByRole("table", { name: "Campaigns" })).toContainText("Tischleuchte");
  const { items } = await api<{ items: { sums: { cost: number } }[] }>(page, "lampen-moller/items?sort=-cost&limit=1");
  expect(items[0]!.sums.cost).toBeGreaterThan(0);
});

test("a refresh that loses too much stops, keeps the catalogue, and says how to go on", async ({ page }) => {
  await page.goto("/w/lampen-moller/catalogue?upload=true");
  const dialog = page.getByRole("dialog");
  await page.getByLabel("Feed file").setInputFiles({ name: "lampen.csv", mimeType: "text/csv", buffer: lampFeed(300) });
  await expect(dialog.getByText("your saved columns are kept")).toBeVisible();
  // The button moves down once the items as understood have come; a click before that may miss it.
  await expect(dialog.getByText("As understood")).toBeVisible();
  await dialog.getByRole("button", { name: "Read the feed" }).click();
  await expect(dialog.getByRole("alert")).toContainText("70 % of the catalogue");
  await page.keyboard.press("Escape");
  await expect(page.getByText("980 items found")).toBeVisible();
});
