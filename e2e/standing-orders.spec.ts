import { api, DEMO, expectAccessible } from "./helpers";
import { expect, test } from "./site";

/** Moves that go out by themselves: made, watching, switched on with numbers, at work, stopped by one click. */

interface Order {
  state: string;
  runs: { outcome: string; moves: number }[];
}

test("a standing order watches, is switched on, sends its moves, and is stopped", async ({ page }) => {
  test.slow();
  await page.goto(`${DEMO}/moves/orders`);
  await expect(page.getByText("No standing order yet")).toBeVisible();
  await page.getByRole("button", { name: "New standing order" }).click();
  const dialog = page.getByRole("dialog", { name: "New standing order" });
  const look = dialog.getByRole("status", { name: "What it would do now" });
  await expect(look).toContainText(/Now it would send \d+ moves?/);
  await expectAccessible(page);
  await dialog.getByLabel("Moves at a time, at most").fill("some");
  await expect(dialog.getByText("A whole number from 1 to 10000.")).toBeVisible();
  await expect(look).toContainText("Mend what is marked first.");
  await dialog.getByLabel("Moves at a time, at most").fill("3");
  await dialog.getByLabel("Largest step, %").fill("");
  await dialog.getByLabel("EUR more a day, at most").fill("");
  await expect(look).toContainText("Now it would send 3 moves");
  await dialog.getByRole("textbox", { name: "Name" }).fill("Item bids");
  await dialog.getByRole("button", { name: "Let it watch" }).click();
  await expect(dialog).toHaveCount(0);
  const done = page.getByRole("list", { name: "What Item bids did" });
  await expect(done).toContainText("would have sent 3 moves", { timeout: 60_000 });
  const sentBefore = (await api<unknown[]>(page, "quillmoor/dispatches")).length;
  await expectAccessible(page);

  await page.getByRole("button", { name: "Switch on" }).click();
  const on = page.getByRole("dialog", { name: "Switch “Item bids” on" });
  await expect(on.getByRole("status", { name: "What it would do now" })).toContainText("Now it would send 3 moves");
  await on.getByRole("button", { name: "Let its moves go out" }).click();
  await expect(done).toContainText("3 moves sent as", { timeout: 60_000 });
  await expect
    .poll(async () => (await api<unknown[]>(page, "quillmoor/dispatches")).length, { timeout: 60_000 })
    .toBe(sentBefore + 1);
  await page.getByRole("main").getByRole("button", { name: "Stop", exact: true }).click();
  await expect(page.getByText("“Item bids” is stopped")).toBeVisible();
  const [order] = await api<Order[]>(page, "quillmoor/standing-orders");
  expect([order!.state, order!.runs[0]!.outcome]).toEqual(["stopped", "sent"]);
  await page.goto(`${DEMO}/log`);
  await expect(page.getByText("Standing order “Item bids” stopped")).toBeVisible();
});
