import { readFile } from "node:fs/promises";
import { api, DEMO, expectAccessible, jobsDone } from "./helpers";
import { expect, test } from "./site";

interface Line {
  key: string;
  level: string;
  name: string;
  kind: string | null;
  purpose: string | null;
  serveOrder: number | null;
  bid: number | null;
  parent: string | null;
}
interface Structure {
  [key: string]: { type: string; adGroup?: string; match?: string; text?: string; origin?: string | null };
}

test("keyword campaigns come from a ladder, match types apart; single ones are set otherwise, and all takes nobody's home", async ({
  page,
}) => {
  await page.goto(`${DEMO}/planogram?plan=new`);
  await page.getByLabel("Kind of campaign").selectOption("Keyword: terms that people search for");
  await expect(page.getByRole("status", { name: "What it aims at" })).toContainText("60 targets: hoses · ");
  await expect(page.getByText("1 ad group without a keyword")).toBeVisible();
  // Campaigns that aim take nobody's place, so nothing is offered to be paused.
  await expect(page.getByRole("checkbox", { name: /when this is sent$/ })).toHaveCount(0);
  await page.getByLabel("A campaign for each match type").check();
  await expect(page.getByText("18 campaigns ·")).toBeVisible();
  await page.getByLabel("Planogram", { exact: true }).fill("Category terms");

  const plan = page.getByRole("table", { name: "What it would make" });
  await plan
    .getByRole("row", { name: /Watering · exact/ })
    .getByRole("checkbox")
    .check();
  await plan
    .getByRole("row", { name: /Hand tools · exact/ })
    .getByRole("checkbox")
    .check();
  await page.getByRole("button", { name: "Set 2 campaigns" }).click();
  const dialog = page.getByRole("dialog", { name: "Settings of 2 campaigns" });
  await expectAccessible(page);
  await dialog.getByLabel("Starting bid").fill("0.7x");
  await expect(dialog.getByText("An amount such as 0.30.")).toBeVisible();
  await expect(dialog.getByRole("button", { name: "Set for 2 campaigns" })).toBeDisabled();
  await dialog.getByLabel("Starting bid").fill("0,70");
  await dialog.getByLabel("Purpose").selectOption("rank");
  await dialog.getByLabel("Serves").selectOption("first");
  await dialog.getByRole("button", { name: "Set for 2 campaigns" }).click();
  await expect(plan.getByText("own settings")).toHaveCount(2);
  // Set along with another that has none of its own, they keep the bid that nobody typed anew.
  await plan
    .getByRole("row", { name: /Seeds · exact/ })
    .getByRole("checkbox")
    .check();
  await page.getByRole("button", { name: "Set 3 campaigns" }).click();
  const three = page.getByRole("dialog", { name: "Settings of 3 campaigns" });
  await expect(three.getByLabel("Starting bid")).toHaveValue("");
  await three.getByLabel("Last day").fill("2027-01-31");
  await three.getByRole("button", { name: "Set for 3 campaigns" }).click();
  await expect(plan.getByText("own settings")).toHaveCount(3);
  await expect(page.getByRole("row", { name: /^taken by this plan/ })).toContainText("1,100");
  await expectAccessible(page);

  await page.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page).toHaveURL(/dispatch/);
  const { lines } = await api<{ lines: Line[] }>(page, "quillmoor/account?days=30");
  const made = lines.filter(({ key }) => key.startsWith("c:structure"));
  expect(made).toHaveLength(18);
  expect(new Set(made.map(({ kind }) => kind))).toEqual(new Set(["keyword"]));
  const ranked = made.filter(({ purpose }) => purpose === "rank");
  expect(ranked.map(({ name, serveOrder }) => `${name} ${serveOrder}`).sort()).toEqual([
    "Hand tools · exact 1",
    "Watering · exact 1",
  ]);
  for (const { parent, bid } of lines.filter(
    (line) => line.level === "adGroup" && line.key.startsWith("g:structure"),
  )) {
    expect(bid === 700).toBe(ranked.some(({ key }) => key === parent));
  }
  await page.getByRole("button", { name: "Send to the test market" }).click();
  await expect(page.getByText(/^Dispatch \d+/).first()).toBeVisible();
  await jobsDone(page, "quillmoor");
  const records = await api<Structure>(page, "quillmoor/structure?format=json");
  const keywords = Object.values(records).filter(
    ({ type, adGroup }) => type === "keyword" && adGroup!.startsWith("g:structure"),
  );
  expect(keywords).toHaveLength(60);
  expect(keywords.every(({ adGroup, match }) => adGroup!.endsWith(`~${match}`))).toBe(true);
});

test("a structure leaves in the form another place wants and comes back edited, each change told before it is kept", async ({
  page,
}) => {
  await page.goto(`${DEMO}/planogram`);
  await page.getByRole("button", { name: "Export", exact: true }).click();
  const dialog = page.getByRole("dialog", { name: "Export the structure" });
  await dialog.getByLabel("CSV parted by").selectOption(";");
  await dialog.getByLabel("Decimal mark").selectOption(",");
  await dialog.getByLabel("Money").selectOption("12.50 with the currency");
  await dialog.getByLabel("Heading of daily_budget").fill("Tagesbudget");
  await dialog.getByLabel("Name", { exact: true }).fill("For the agency");
  await expectAccessible(page);
  await dialog.getByRole("button", { name: "Keep" }).click();
  await expect(page.getByText("“For the agency” is kept")).toBeVisible();
  const [file] = await Promise.all([
    page.waitForEvent("download"),
    dialog.getByRole("button", { name: "Download" }).click(),
  ]);
  expect(file.suggestedFilename()).toBe("for-the-agency.csv");
  const text = await readFile(await file.path(), "utf8");
  expect(text.split("\n")[0]).toContain(";Tagesbudget;");
  const watering = text.split("\n").find((line) => line.includes("Watering keywords") && line.startsWith("campaign"))!;
  expect(watering).toContain("22,00 EUR");
  await page.keyboard.press("Escape");

  await page.getByRole("button", { name: "Read a file back" }).click();
  const back = page.getByRole("dialog", { name: /Read/ });
  const edited = text.replace(watering, watering.replace("22,00 EUR", "25,50 EUR"));
  await back.getByLabel("Structure file").setInputFiles({
    name: "for-the-agency.csv",
    mimeType: "text/csv",
    buffer: Buffer.from(edited.replace("1,25 EUR", "viel")),
  });
  await expect(back.getByRole("list", { name: "Changes" })).toContainText("daily budget €22.00 → €25.50");
  await expect(back.getByRole("alert")).toContainText("“viel” is no amount");
  await expectAccessible(page);
  await back.getByRole("button", { name: /basket/ }).click();
  await expect(page.getByText("€25.50").first()).toBeVisible();
});

test("what the feed changes is proposed as homes to give and take, and goes into the basket with one click", async ({
  page,
  site,
}) => {
  const send = async (path: string, data: unknown = {}) => {
    const response = await page.request.post(`/api/v1/quillmoor/${path}`, { data });
    expect(response.ok()).toBe(true);
    return (await response.json()) as { job: string };
  };
  const part = (level: number) => [{ kind: "field", field: `level-${level}` }];
  await send("planograms", {
    ...{ key: "by-item", name: "By category and item", campaignLine: 1, adGroupLine: 1, inStockOnly: true },
    ladder: ["category1", "id"].map((by) => ({ by, largest: null })),
    ...{ campaignName: part(1), adGroupName: part(1), purpose: "scale", bidding: "fixed", goal: 3.5 },
    ...{ totalBudget: 205_000, shareBy: "revenue", startingBid: 480, serveOrder: 3, replaces: ["c:everything"] },
    keepStep: { how: "propose", most: 0 },
  });
  await send("planograms/by-item/apply");
  await jobsDone(page, "quillmoor");
  await send("dispatches");
  await jobsDone(page, "quillmoor");
  await page.request.post(site.standIns, { data: { version: 2 } });
  await send("feeds/main/fetch");
  await jobsDone(page, "quillmoor");

  await page.goto(`${DEMO}/planogram`);
  const steps = page.getByRole("list", { name: "Out of step" });
  await expect(steps).toContainText("By category and item");
  await steps.getByRole("button", { name: /^Look at/ }).click();
  const dialog = page.getByRole("dialog", { name: "Back in step with By category and item" });
  await expectAccessible(page);
  await dialog.getByRole("button", { name: /basket/ }).click();
  await expect(page.getByText(/^In step with “By category and item”: \d+ changes? in the basket/)).toBeVisible();
  await expect(steps).toHaveCount(0);
  const { changes } = await api<{ changes: { reason: string }[] }>(page, "quillmoor/basket");
  expect(changes.some(({ reason }) => reason === "In step with “By category and item”")).toBe(true);
});
