import type { Guide } from "../src/core/guide/guide";
import { api, DEMO, expectAccessible } from "./helpers";
import { expect, test } from "./site";

/** The guide says what there is: every step leads to a page on which what it sets in bold can be seen or reached. */

test("a job is found by search and opened beside the page it speaks of", async ({ page }) => {
  await page.goto(`${DEMO}/moves`);
  await expect(page.getByRole("heading", { level: 1, name: "Moves" })).toBeVisible();
  await page.getByRole("button", { name: "Guide" }).click();
  const panel = page.getByRole("complementary", { name: "Guide" });
  await expect(panel.getByRole("heading", { name: "For this page" })).toBeVisible();
  await expectAccessible(page);
  await panel.getByRole("button", { name: "The week's moves, from evidence to money" }).click();
  await panel.getByRole("link", { name: "Open house rules" }).click();
  // It stays beside the page one goes to.
  await expect(page).toHaveURL(/moves\/rules/);
  await expect(panel.getByRole("heading", { name: "The week's moves, from evidence to money" })).toBeVisible();
  await panel.getByRole("button", { name: "Close the guide" }).click();
  await expect(panel).toHaveCount(0);

  await page.keyboard.press("Control+k");
  await page.getByRole("dialog").getByRole("combobox").fill("audit");
  await page.getByRole("option", { name: /What is wrong with an account, in writing/ }).click();
  await expect(panel.getByRole("listitem").first()).toContainText("Take stock reads all there is");
  await expectAccessible(page);
});

test("every step of every job is true of the page it leads to", async ({ page }) => {
  test.setTimeout(300_000);
  await page.goto(DEMO);
  await page.getByRole("button", { name: "Guide" }).click();
  const panel = page.getByRole("complementary", { name: "Guide" });
  const guides = await api<Guide[]>(page, "guide");
  const steps: { guide: string; step: number; href: string; names: string[] }[] = [];
  for (const { title } of guides) {
    await panel.getByRole("button", { name: title, exact: true }).click();
    const lines = panel.getByRole("listitem");
    await expect(lines.first()).toBeVisible();
    for (const [at, line] of (await lines.all()).entries()) {
      const href = await line.getByRole("link").getAttribute("href");
      const names = await line.locator("strong").allInnerTexts();
      steps.push({ guide: title, step: at + 1, href: href!, names });
    }
    await panel.getByRole("button", { name: "All guides" }).click();
  }
  await panel.getByRole("button", { name: "Close the guide" }).click();
  for (const { guide, step, href, names } of steps) {
    await page.goto(href);
    for (const name of names) {
      const named = page.getByLabel(name, { exact: false });
      const shown = page.locator("main, [role=dialog]").getByText(name, { exact: false });
      const found = shown.or(named).filter({ visible: true });
      await expect(found.first(), `${guide}, step ${step}: “${name}” at ${href}`).toBeVisible();
    }
  }
});
