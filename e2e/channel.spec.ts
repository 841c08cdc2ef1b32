import { api, DEMO, expectAccessible, jobsDone } from "./helpers";
import { expect, test } from "./site";

test.describe.configure({ mode: "serial" });

interface Channel {
  kind: string;
  name: string;
}

test("a platform is chosen by its address; a wrong token is said, and nothing changes", async ({ page }) => {
  await page.goto(`${DEMO}/dispatch/channel`);
  await expect(page.getByText("Sends to the test market")).toBeVisible();
  await page.getByRole("button", { name: "Choose another channel" }).click();
  const dialog = page.getByRole("dialog", { name: "Choose the channel" });
  await dialog.getByLabel("Sends to").selectOption({ label: "a program at an address" });
  await dialog.getByLabel("Address").fill("http://ads.quillmoor.example");
  await dialog.getByLabel("Token").fill("wrong");
  await expectAccessible(page);
  await dialog.getByRole("button", { name: "Send there from now on" }).click();
  await expect(page.getByText("The channel does not know the token.")).toBeVisible();
  expect((await api<Channel>(page, "quillmoor/channel")).kind).toBe("market");
  await dialog.getByLabel("Token").fill("garden");
  await dialog.getByRole("button", { name: "Send there from now on" }).click();
  await expect(page.getByText("Sends to Garden Ads at http://ads.quillmoor.example")).toBeVisible();
  await expect(page.getByText("exact, phrase")).toBeVisible();
  await expect(page.getByText("folder, auction flex")).toBeVisible();
});

test("prices that another channel told are not known here, and a rate card can be pasted", async ({ page }) => {
  await page.goto(`${DEMO}/targets/demand`);
  await expect(page.getByText("This channel tells nothing by itself")).toBeVisible();
  await page.getByRole("button", { name: "Take a rate card in" }).first().click();
  const dialog = page.getByRole("dialog", { name: "Take a rate card in" });
  await dialog
    .getByLabel("Lines with headings")
    .fill("term\ttypical\tviews a month\ngarden hose\t0.42\t1900\nrake\tdear\t10");
  await dialog.getByRole("button", { name: "Take them in" }).click();
  await expect(dialog.getByText("Line 3: “dear” is no amount.")).toBeVisible();
  await dialog.getByRole("button", { name: "Leave it" }).click();
  await page.getByRole("textbox", { name: "One a line" }).fill("garden hose\nzeppelin");
  await page.getByRole("button", { name: "Estimate" }).click();
  const card = page.getByRole("table", { name: "Rate card" });
  await expect(card.getByRole("row", { name: /garden hose/ })).toContainText("€0.47");
  await expect(card.getByRole("row", { name: /zeppelin/ })).toContainText("not known");
});

test("what stands there is read back, and taken over where nothing of it waits in the basket", async ({ page }) => {
  await page.goto(`${DEMO}/dispatch/channel`);
  await page.getByRole("button", { name: "Read it back" }).click();
  await expect(page.getByText(/Of 0 records there, .* are not there/)).toBeVisible();
  await page.getByRole("button", { name: /^Take over [\d,]+ records$/ }).click();
  await expect(page.getByText(/stood otherwise there and were taken over, as dispatch 2/)).toBeVisible();
  await jobsDone(page, "quillmoor");
  await page.goto(`${DEMO}/planogram`);
  await expect(page.getByText("Gloves push")).toHaveCount(0);
});

test("taking that back sends the account; what the platform can't carry waits with its reason", async ({ page }) => {
  await page.goto(`${DEMO}/dispatch`);
  const line = page.getByRole("listitem").filter({ hasText: "Dispatch 2" });
  await line.getByRole("button", { name: "Take back" }).click();
  await page
    .getByRole("dialog")
    .getByRole("button", { name: /^Take [\d,]+ changes back$/ })
    .click();
  await expect(page.getByText("Dispatch sent, not all of it taken")).toBeVisible({ timeout: 20_000 });
  await jobsDone(page, "quillmoor");
  await page.goto(`${DEMO}/dispatch`);
  await expect(page.getByText(/not taken when sent: discovery campaigns are not known there/).first()).toBeVisible();
  await expect(
    page.getByText(/that Garden Ads will not take\. 11: discovery campaigns are not known there; 2: broad match/),
  ).toBeVisible();
  await expectAccessible(page);
  await page.getByRole("button", { name: "Dispatch 3" }).click();
  await expect(page.getByRole("heading", { name: "Not taken as it was meant" })).toBeVisible();
  await expect(page.getByText(/broad match is not known there/).first()).toBeVisible();
  await page.keyboard.press("Escape");
  await page.goto(`${DEMO}/dispatch/channel`);
  await page.getByRole("button", { name: "Read it back" }).click();
  await expect(page.getByText(/^All [\d,]+ records stand as they should.$/)).toBeVisible();
});

test("days of the test market are not run beside another channel's results", async ({ page }) => {
  await page.goto(`${DEMO}/results/market`);
  await expect(page.getByRole("heading", { name: "This workspace sends to Garden Ads" })).toBeVisible();
  const refused = await page.request.post("/api/v1/quillmoor/market/run", { data: { days: 1 } });
  expect(((await refused.json()) as { error: { code: string } }).error.code).toBe("market-not-channel");
});

test("a workspace that sends to files gives each dispatch out as one", async ({ page }) => {
  await page.goto(`${DEMO}/dispatch`);
  await page.getByRole("button", { name: "Empty the basket" }).click();
  await page
    .getByRole("dialog")
    .getByRole("button", { name: /^Take [\d,]+ changes out$/ })
    .click();
  await expect(page.getByText("Nothing waits to be sent")).toBeVisible();
  await page.goto(`${DEMO}/dispatch/channel`);
  await page.getByRole("button", { name: "Choose another channel" }).click();
  const dialog = page.getByRole("dialog", { name: "Choose the channel" });
  await dialog.getByLabel("Sends to").selectOption({ label: "files that a person carries" });
  await dialog.getByRole("button", { name: "Send there from now on" }).click();
  await expect(page.getByText("Sends to the place the files go to")).toBeVisible();
  const campaigns = await api<{ key: string; type: string }[]>(page, "quillmoor/structure?format=json");
  expect(JSON.stringify(campaigns)).toContain("Gloves push");
});
