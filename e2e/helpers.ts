import AxeBuilder from "@axe-core/playwright";
import { expect, type Locator, type Page } from "@playwright/test";

export const DEMO = "/w/quillmoor";

/** Fails on any accessibility violation in the page as it is; `rules` narrows what is looked for. */
export async function expectAccessible(page: Page, rules?: string[]): Promise<void> {
  // While a page's figures are on their way there is only a sentence that says so; what is looked at is the page.
  await expect(page.locator("h1").first()).toBeAttached();
  // A dialog gets its name when its title has mounted, a moment after it opens.
  // One that is closing at this moment is looked for anew.
  await expect(async () => {
    for (const dialog of await page.getByRole("dialog").all()) {
      await expect(dialog).toHaveAccessibleName(/./, { timeout: 2000 });
    }
  }).toPass();
  // No page here has frames, so it is looked at in one go; and only what is wrong is handed over. Four times as fast.
  const axe = new AxeBuilder({ page }).setLegacyMode(true).options({ resultTypes: ["violations"] });
  const { violations } = await (rules ? axe.withRules(rules) : axe).analyze();
  const found = violations.map(
    ({ id, help, nodes }) => `${id}: ${help}\n  ${nodes.map(({ html }) => html.slice(0, 160)).join("\n  ")}`,
  );
  expect(found).toEqual([]);
}

/** Reads from the API as a script would. */
export async function api<T>(page: Page, path: string): Promise<T> {
  const response = await page.request.get(`/api/v1/${path}`);
  expect(response.ok()).toBe(true);
  return (await response.json()) as T;
}

/** Waits until no job of a workspace is under way. */
export async function jobsDone(page: Page, workspace: string, seconds = 80): Promise<void> {
  await expect
    .poll(
      async () =>
        (await api<{ state: string }[]>(page, `${workspace}/jobs`)).filter(
          ({ state }) => state === "waiting" || state === "running",
        ).length,
      {
        timeout: seconds * 1000,
      },
    )
    .toBe(0);
}

/** Chooses from a list that is searched by typing. */
export async function choose(box: Locator, text: string): Promise<void> {
  await box.fill(text);
  await box.page().getByRole("option", { name: text, exact: true }).click();
}

/** Presses what can be done with picked lines, wherever it stands: as a button, or in the menu behind "More". */
export async function pressAct(bar: Locator, name: string): Promise<void> {
  const button = bar.getByRole("button", { name, exact: true });
  await expect(bar.getByRole("button").first()).toBeVisible();
  if ((await button.count()) > 0) return button.click();
  await bar.getByRole("button", { name: "More", exact: true }).click();
  await bar.page().getByRole("menuitem", { name, exact: true }).click();
}
