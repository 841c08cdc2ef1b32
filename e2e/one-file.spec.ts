import { formatMoney } from "../src/core/kit/money";
import type { StocktakeLine, StocktakeView } from "../src/server/stocktake/stocktakes";
import { api, expectAccessible, jobsDone } from "./helpers";
import { expect, test } from "./site";

/** Somebody has one report of an account, and goes from it to the printed report of what is wrong there. */

/** Sixty days of six terms, one of which only costs; a total between the rows, and one row that is no row. */
function termReport(): { text: string; spendCents: number; orders: number } {
  const terms = [
    { term: "garden hose", match: "broad", clicks: 20, cents: 60, everyDays: 1, sales: 42 },
    { term: "hose reel", match: "exact", clicks: 10, cents: 70, everyDays: 2, sales: 80 },
    { term: "cheap hose parts", match: "broad", clicks: 25, cents: 55, everyDays: 0, sales: 0 },
  ];
  const lines = ["Date,Campaign Name,Keyword,Match Type,Search term,Impressions,Clicks,Spend (USD),Orders,Sales (USD)"];
  let [spendCents, orders] = [0, 0];
  for (let day = 0; day < 60; day++) {
    const date = new Date(Date.UTC(2026, 7, 1 + day)).toISOString().slice(0, 10);
    for (const { term, match, clicks, cents, everyDays, sales } of terms) {
      const sold = everyDays > 0 && day % everyDays === 0 ? 1 : 0;
      spendCents += clicks * cents;
      orders += sold;
      const spend = ((clicks * cents) / 100).toFixed(2);
      lines.push(
        `${date},Generic ${match},hose,${match},${term},${clicks * 40},${clicks},${spend},${sold},${sold * sales}`,
      );
    }
    if (day === 29) lines.push("Total,,,,,99999,9999,9999.00,999,99999");
  }
  lines.push("2026-13-45,Generic broad,hose,broad,garden hose,1,1,1.00,0,0");
  return { text: `${lines.join("\n")}\n`, spendCents, orders };
}

const file = (name: string, text: string | Buffer) => ({ name, mimeType: "text/csv", buffer: Buffer.from(text) });

test("what is wrong with an account is told from one report of it, and printed", async ({ page }) => {
  const { text, spendCents, orders } = termReport();
  await page.goto("/?all=1");
  const look = page.locator("form", { hasText: "Look at one file" });
  const button = look.getByRole("button", { name: "Look at this file" });
  await expect(button).toBeDisabled();
  // What is no report is refused with a sentence, and one goes on from there.
  await look.getByLabel("Report file").setInputFiles(file("photo.csv", Buffer.from("\x89PNG\r\n\x1a\n0000", "latin1")));
  await look.getByLabel("Goal return").fill("none");
  await expect(button).toBeDisabled();
  await look.getByLabel("Goal return").fill("3");
  await button.click();
  await expect(look.getByRole("alert")).toContainText("PNG picture");
  await look.getByLabel("Report file").setInputFiles(file("terms of august.csv", text));
  await expectAccessible(page);
  await button.click();

  const dialog = page.getByRole("dialog", { name: "Columns of terms of august.csv" });
  await expect(dialog.getByLabel("Search term or listing")).toHaveValue("Search term");
  // The workspace was made for the picture, in euros: the report's dollars are asked for, not guessed.
  await expect(dialog.getByLabel("Its money is in")).toHaveValue("USD");
  await dialog.getByLabel("EUR for one USD").fill("1");
  await dialog.getByRole("button", { name: "Read it in" }).click();

  const found = page.getByRole("region", { name: "What was found" });
  await expect(found.getByText("cheap hose parts").first()).toBeVisible({ timeout: 60_000 });
  const slug = /\/w\/([^/]+)\//.exec(page.url())![1]!;
  await jobsDone(page, slug);
  const [line] = await api<StocktakeLine[]>(page, `${slug}/stocktakes`);
  const { head, chapters } = await api<StocktakeView>(page, `${slug}/stocktakes/${line!.id}`);
  expect([head.total.cost, head.total.orders]).toEqual([spendCents * 10, orders]);
  expect(head.findings.map(({ fault }) => fault)).toContain("waste-terms");
  // What one file does not tell is said to be lacking, not shown as nothing.
  expect(chapters.find(({ key }) => key === "items")?.lacks).toBeTruthy();
  const strip = page.getByRole("contentinfo", { name: "Till strip" });
  await expect(strip.getByRole("link", { name: "Without home –" })).toBeVisible();
  await expectAccessible(page);

  await page.getByRole("button", { name: "Report …" }).click();
  await page.getByRole("button", { name: "Read and print" }).click();
  const printed = page.frameLocator("iframe[title='The report as it prints']");
  await expect(printed.getByText("cheap hose parts").first()).toBeVisible();
  await expect(printed.getByText(formatMoney(spendCents * 10, "EUR")).first()).toBeVisible();
});
