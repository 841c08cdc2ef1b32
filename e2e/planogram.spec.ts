import type { Page } from "@playwright/test";
import { api, choose, DEMO, expectAccessible, pressAct } from "./helpers";
import { expect, test } from "./site";

/** A row of the proof: items with one home, several, none, and leaks. */
async function proofRow(page: Page, name: string): Promise<string[]> {
  const row = page.getByRole("row", { name: new RegExp(`^${name}`) });
  return row.getByRole("cell").allInnerTexts();
}

test("a structure to start from is adjusted, proved over the whole account, and its money shared to the last mill", async ({
  page,
}) => {
  await page.goto(`${DEMO}/planogram?plan=new`);
  const total = page.getByLabel("Total a day");
  const whole = Number(await total.inputValue());
  // Solos stand beside what runs, for a quarter of its money, and are called after their products.
  await page.getByLabel("Start from").selectOption("Solos for proven families");
  await expect(page.getByText("10 campaigns ·")).toBeVisible();
  await expect(total).toHaveValue((whole / 4).toFixed(2));
  const plan = page.getByRole("table", { name: "What it would make" });
  await expect(plan.getByRole("row").nth(1)).toContainText(/[A-Z][a-z]+ [A-Z][a-z]+/);
  await expect(plan.getByRole("row", { name: /F\d{4}/ })).toHaveCount(0);
  await expect(async () => {
    const [taken] = await proofRow(page, "taken by this plan");
    const [would, is] = [
      await proofRow(page, "whole account, with this plan"),
      await proofRow(page, "whole account, live"),
    ];
    // What runs keeps the items, so those that had one home have several.
    expect(Number(taken)).toBeGreaterThan(9);
    expect(Number(would[1])).toBeGreaterThan(Number(is[1]));
    expect(would[2]).toBe("0");
  }).toPass();
  // Another structure begins at the plan as it was, not at the leavings of the one before.
  await page.getByLabel("Start from").selectOption("The biggest categories, and one for the rest");
  await expect(total).toHaveValue(whole.toFixed(2));
  await expect(page.getByText("Pays where a few categories bring most")).toBeVisible();
  await expect(page.getByText("8 campaigns ·")).toBeVisible();
  const items = (await api<{ total: number }>(page, "quillmoor/items?limit=1")).total;
  // Nothing that runs beside it is left: what it takes has one home, all else is sold out.
  await expect(async () => {
    const [one, several, none, leaks] = await proofRow(page, "taken by this plan");
    expect([several, none, leaks]).toEqual(["0", "0", "0"]);
    const whole = (await proofRow(page, "whole account, with this plan")).map((text) =>
      Number(text.replace(/\D/g, "")),
    );
    expect(whole[0]! + whole[1]! + whole[2]!).toBe(items);
    expect(String(whole[0])).toBe(one!.replace(/\D/g, ""));
  }).toPass();
  await expectAccessible(page);

  // A campaign's budget set by hand: the others share the rest, and the sum stays.
  await page.getByLabel("Total a day").fill("205");
  const watering = page.getByLabel("Budget a day of Watering");
  await watering.fill("100");
  await watering.press("Enter");
  await expect(page.getByRole("button", { name: "Let Watering share again" })).toBeVisible();
  await expect(page.getByRole("status", { name: "In all" })).toContainText("budget €205.00 a day");
  await expect(page.getByText("€205.00 here")).toBeVisible();

  // Only some values, and no ads for the others: said as left out on purpose, and as what would lose its home.
  await page.getByLabel("Values taken").first().selectOption("chosen");
  const dialog = page.getByRole("dialog", { name: "Values to take" });
  await dialog.getByRole("button", { name: "Take none" }).click();
  await dialog
    .getByRole("row", { name: /Watering/ })
    .getByRole("checkbox")
    .click();
  await dialog.getByRole("row", { name: /Seeds/ }).getByRole("checkbox").click();
  await dialog.getByRole("button", { name: "Take these" }).click();
  await page.getByLabel("What becomes of the others").first().selectOption("others get no ads");
  await expect(page.getByText("2 campaigns ·")).toBeVisible();
  await expect(page.getByText(/not taken by split 1, Category, level 1/)).toBeVisible();
  await expect(page.getByText(/items that can be bought would lose their home/)).toBeVisible();

  // Beside the others it takes no home away.
  for (const box of await page.getByRole("checkbox", { name: /when this is sent$/ }).all()) await box.uncheck();
  await expect(page.getByText(/would lose their home/)).toHaveCount(0);
  await page.getByRole("button", { name: "Condition" }).click();
  await expect(page.getByText(/left out$/)).toBeVisible();
});

test("values that are not taken go on to a rung of their own, and every item still has one home", async ({ page }) => {
  await page.goto(`${DEMO}/planogram?plan=new`);
  await page.getByLabel("Values taken").first().selectOption("the largest");
  await page.getByLabel("How many of the largest values").fill("2");
  await expect(page.getByText("4 campaigns ·")).toBeVisible();
  await page.getByLabel("What becomes of the others").selectOption("others divided by …");
  await page.getByLabel("Field that divides the others").selectOption("Brand");
  const plan = page.getByRole("table", { name: "What it would make" });
  await expect(plan.getByRole("row", { name: /remainder/ })).toHaveCount(0);
  await expect(plan.getByRole("row", { name: /Watering/ })).toBeVisible();
  const brands = (await api<{ by: string; distinct: number }[]>(page, "quillmoor/split-fields")).find(
    ({ by }) => by === "brand",
  )!.distinct;
  const campaigns = Number(
    /(\d+) campaigns/.exec(
      await page
        .getByText(/campaigns · /)
        .first()
        .innerText(),
    )![1],
  );
  expect(campaigns).toBeGreaterThan(5);
  // Two categories, the items without one, and at most each brand and the items without that.
  expect(campaigns).toBeLessThanOrEqual(3 + brands + 1);
  await expect(async () => {
    const [one, several, none, leaks] = await proofRow(page, "taken by this plan");
    expect([one, several, none, leaks]).toEqual(["1,100", "0", "0", "0"]);
  }).toPass();
  await expectAccessible(page);
});

test("campaigns are sorted into folders with totals and renamed; a name that contradicts its settings is told", async ({
  page,
}) => {
  await page.goto(`${DEMO}/planogram`);
  const table = page.getByRole("table", { name: "Campaigns and groups" });
  const pick = (name: RegExp) => table.getByRole("row", { name }).getByRole("checkbox").check();
  await pick(/Gloves push/);
  const bar = page.getByRole("group", { name: "Picked lines" });
  await pressAct(bar, "Rename");
  const rename = page.getByRole("dialog", { name: "Rename: Gloves push" });
  await rename.getByLabel("Name").fill("Gloves, discover");
  await rename.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByRole("dialog")).toHaveCount(0);
  await expect(table.getByRole("row", { name: /Gloves, discover/ })).toContainText("name and settings differ");
  // The settings follow the name: it says what it is again.
  await pick(/Gloves, discover/);
  await pressAct(bar, "Settings");
  const settings = page.getByRole("dialog", { name: "Settings: Gloves, discover" });
  await expect(settings.getByRole("button", { name: "Put into the basket" })).toBeDisabled();
  await settings.getByLabel("Purpose").selectOption("discover");
  await settings.getByLabel("Last day", { exact: true }).fill("2026-12-24");
  await expectAccessible(page);
  await settings.getByRole("button", { name: "Put into the basket" }).click();
  // The pick goes with the dialog; only then the next one holds.
  await expect(settings).toHaveCount(0);
  await expect(table.getByText("name and settings differ")).toHaveCount(0);
  await pick(/Gloves, discover/);
  await pressAct(bar, "Settings");
  await settings.getByLabel("Purpose").selectOption("scale");
  await settings.getByRole("button", { name: "Put into the basket" }).click();
  // The dialog takes the line's new name before it closes, so it is not looked for by the old one.
  await expect(page.getByRole("dialog")).toHaveCount(0);
  await expect(bar).toHaveCount(0);
  // And a name can follow its settings.
  await expect(table.getByRole("row", { name: /Gloves, scale/ })).toBeVisible();
  await pick(/Gloves, scale/);
  await pressAct(bar, "Rename");
  await page.getByRole("dialog", { name: "Rename: Gloves, scale" }).getByLabel("Name").fill("Gloves, discover");
  await page.getByRole("dialog").getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByRole("dialog")).toHaveCount(0);
  await pick(/Gloves, discover/);
  await pick(/LED panels/);
  await pressAct(bar, "Folder");
  const folder = page.getByRole("dialog", { name: "Folder: 2 campaigns" });
  await folder.getByLabel("Folder").fill("Pushed");
  await folder.getByRole("button", { name: "Put into the basket" }).click();
  const folders = page.getByRole("group", { name: "Folders" });
  await folders.getByRole("button", { name: /^Pushed 2 campaigns/ }).click();
  await expect(table.getByRole("row")).toHaveCount(3);
  const { lines } = await api<{ lines: { folder: string | null; sums: { cost: number } }[] }>(
    page,
    "quillmoor/account?days=30",
  );
  const spend = lines.filter((line) => line.folder === "Pushed").reduce((sum, { sums }) => sum + sums.cost, 0);
  await expect(folders.getByRole("status")).toContainText(`spend €${(spend / 1000).toFixed(2)}`);
  await expectAccessible(page);
  await page.goto(`${DEMO}/dispatch`);
  await expect(page.getByText(/sorted under “Pushed”/).first()).toBeVisible();
  await expect(page.getByText(/1 campaign whose name says another purpose or kind/)).toBeVisible();
});

test("a thin group moves into another campaign; before, it is said who serves its items then", async ({ page }) => {
  await page.goto(`${DEMO}/planogram?q=LED panels`);
  const table = page.getByRole("table", { name: "Campaigns and groups" });
  await table.getByRole("button", { name: "LED panels" }).first().click();
  await table.getByRole("row").nth(2).getByRole("checkbox").check();
  const bar = page.getByRole("group", { name: "Picked lines" });
  await bar.getByRole("button", { name: "Pause" }).click();
  const pause = page.getByRole("dialog", { name: /^Pause: / });
  await expect(pause.getByRole("status")).toContainText(/\d+ items are served by All products \(\d+\) then\./);
  await pause.getByRole("button", { name: "Leave it" }).click();
  await bar.getByRole("button", { name: "Move" }).click();
  const move = page.getByRole("dialog", { name: /^Move to another campaign: / });
  await choose(move.getByRole("combobox", { name: "To" }), "All products");
  await expect(move.getByRole("status")).toBeVisible();
  await expectAccessible(page);
  await move.getByRole("button", { name: "Put into the basket" }).click();
  // The group stands below its new campaign; the old one is paused and says why.
  await expect(table.getByRole("row").filter({ hasText: "moved to All products" })).toHaveCount(1);
  const { lines } = await api<{ lines: { name: string; level: string; status: string }[] }>(
    page,
    "quillmoor/account?days=30",
  );
  expect(lines.find(({ name, level }) => name === "LED panels" && level === "campaign")!.status).toBe("paused");
});

test("where nobody signs in, the one who is there approves the basket; a change voids that", async ({ page }) => {
  await page.goto(`${DEMO}/dispatch`);
  const send = page.getByRole("button", { name: "Send to the test market" });
  await expect(send).toBeEnabled();
  const rule = page.getByRole("checkbox", { name: "Somebody approves the basket before it is sent" });
  await rule.click();
  await expect(send).toBeDisabled();
  await page.getByRole("button", { name: "Approve" }).click();
  await expect(page.getByText(/^Approved/)).toBeVisible();
  await expect(send).toBeEnabled();
  const [line] = (await api<{ lines: { key: string }[] }>(page, "quillmoor/account?days=30")).lines;
  const edit = { action: "budget", keys: [line!.key], op: { how: "set", mills: 12_340 } };
  expect((await page.request.post("/api/v1/quillmoor/account/edits", { data: edit })).ok()).toBe(true);
  await page.reload();
  await expect(page.getByText("This basket waits for approval.")).toBeVisible();
  await rule.click();
  await expect(send).toBeEnabled();
});
