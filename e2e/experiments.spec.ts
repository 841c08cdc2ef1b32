import type { Page } from "@playwright/test";
import type { ExperimentLine, ExperimentView } from "../src/server/experiments/experiments";
import { api, DEMO, expectAccessible, jobsDone } from "./helpers";
import { expect, test } from "./site";

/** Somebody is not sure whether items need ads, tries it on half, looks at what it does, and makes a rule of it. */
test.describe.configure({ mode: "serial" });

const list = (page: Page) => api<ExperimentLine[]>(page, "quillmoor/experiments");
const form = (page: Page) => page.getByRole("dialog", { name: "New experiment" });
const look = (page: Page) => page.getByRole("status", { name: "What the experiment would be" });
const runDays = async (page: Page, days: number) => {
  expect((await page.request.post("/api/v1/quillmoor/market/run", { data: { days } })).ok()).toBe(true);
  await jobsDone(page, "quillmoor", 120);
};
const dispatches = async (page: Page) => (await api<unknown[]>(page, "quillmoor/dispatches")).length;
const send = async (page: Page) => {
  await page.goto(`${DEMO}/dispatch`);
  await page.getByRole("button", { name: "Send to the test market" }).click();
  await expect(page.getByText("Dispatch sent").first()).toBeVisible();
  await jobsDone(page, "quillmoor");
};

test("a trial says first what it can find, and begins with what is sent", async ({ page }) => {
  await page.goto(`${DEMO}/catalogue`);
  const items = page.getByRole("table", { name: "Items" });
  await items.getByRole("checkbox").nth(1).click();
  await items.getByRole("checkbox").nth(2).click();
  await page.getByRole("button", { name: "Exclude", exact: true }).click();
  await page.getByRole("link", { name: "Try it on half of them first" }).click();
  // Two items make one pair, which tells nothing.
  await expect(form(page).getByLabel("IDs, one a line")).toHaveValue(/^Q\d+\nQ\d+$/);
  await expect(look(page)).toContainText("it takes 6 to tell luck from effect");
  await form(page).getByLabel("Which items").selectOption("all that had clicks");
  await expect(look(page)).toContainText(/Not with this traffic|days are too few|is found four times of five/);
  await form(page).getByLabel("What to try").selectOption("Another bid");
  await form(page).getByLabel("Bid, % more or less").fill("-70");
  await form(page).getByLabel("Told by").selectOption("Clicks");
  await form(page).getByLabel("Least effect a day that matters").fill("60");
  await form(page).getByLabel("Days").fill("14");
  await form(page).getByLabel("Name").fill("Far lower bids");
  await form(page).getByLabel("What you think will happen").fill("Most clicks go.");
  await expect(look(page).getByRole("table").getByRole("row")).toHaveCount(3);
  await expect(look(page)).toContainText("a coin says who goes with the change");
  await expectAccessible(page);
  await form(page).getByRole("button", { name: "Put into the basket" }).click();
  await expect(form(page)).toHaveCount(0);
  await expect(page.getByRole("table", { name: "Experiments" })).toContainText("in the basket");
  await send(page);
  await expect.poll(async () => (await list(page))[0]!.stage).toBe("running");
});

test("may be looked at on any day, and tells what came", async ({ page }) => {
  await runDays(page, 14);
  const [line] = await list(page);
  expect(line).toMatchObject({ name: "Far lower bids", stage: "over", finding: "less" });
  await page.goto(DEMO);
  await page.getByRole("link", { name: "Settle it" }).click();
  await page.getByRole("table", { name: "Experiments" }).getByRole("row").nth(1).click();
  const panel = page.getByRole("dialog", { name: /Far lower bids/ });
  await expect(panel.getByText(line!.verdict)).toBeVisible();
  await expect(panel.getByText("Most clicks go.")).toBeVisible();
  await expect(panel.getByRole("figure", { name: /Effect a day/ })).toBeVisible();
  await expectAccessible(page);
  await panel.getByRole("button", { name: "Take the verdict’s words" }).click();
  await panel.getByRole("button", { name: "Make it a house rule" }).click();
  await expect(page.getByText("It stands among the house rules")).toBeVisible();
  await panel.getByRole("button", { name: "Take it back" }).click();
  await expect(page.getByText(/is ended: taken back/)).toBeVisible();
  await page.goto(`${DEMO}/moves/rules`);
  await expect(page.getByRole("heading", { name: "What experiments taught" })).toBeVisible();
  await expect(page.getByText(line!.verdict).first()).toBeVisible();
  await send(page);
  expect((await list(page))[0]).toMatchObject({ stage: "ended", ended: { how: "taken back" } });
});

test("days are switched by themselves, before each day and back at the end", async ({ page }) => {
  await page.goto(`${DEMO}/experiments`);
  await page.getByRole("button", { name: "New experiment …" }).click();
  await form(page).getByLabel("What to try").selectOption("Days without some ads");
  await expect(form(page).getByText("Choose campaigns.")).toBeVisible();
  await expect(form(page).getByRole("button", { name: "Put into the basket" })).toBeDisabled();
  await form(page).getByRole("checkbox", { name: "Against Wainford supports" }).check();
  await form(page).getByLabel("Days").fill("20");
  await expect(form(page).getByText("Days are paired by weekday in fortnights: 14, 28, 42 and so on.")).toBeVisible();
  await form(page).getByLabel("Days").fill("14");
  await form(page)
    .getByRole("checkbox", { name: /Stop and take it back/ })
    .uncheck();
  await expect(look(page)).toContainText("switched on and off at the channel by themselves before each day");
  await form(page).getByRole("button", { name: "Put into the basket" }).click();
  await expect(form(page)).toHaveCount(0);
  await send(page);
  const sent = await dispatches(page);
  await runDays(page, 15);
  const [line] = await list(page);
  expect(line).toMatchObject({ name: "Days without some ads", stage: "over" });
  const seen = await api<ExperimentView>(page, `quillmoor/experiments/${line!.id}`);
  expect(seen.dayByDay.map(({ stood }) => stood)).toEqual(seen.dayByDay.map(({ on }) => on));
  // The day that it began on was sent by hand; each switch after it is a dispatch of its own.
  const plan = [...seen.dayByDay.map(({ on }) => on), false];
  const switches = plan.filter((on, at) => at > 0 && on !== plan[at - 1]).length;
  expect((await dispatches(page)) - sent).toBe(switches);
  await page.goto(`${DEMO}/experiments`);
  await page.getByRole("table", { name: "Experiments" }).getByRole("row").nth(1).click();
  await expect(page.getByRole("list", { name: "Days of the plan" }).getByRole("listitem")).toHaveCount(14);
});
