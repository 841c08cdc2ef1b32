import { api, DEMO, expectAccessible } from "./helpers";
import { expect, test } from "./site";

test("the item table works without a mouse", async ({ page }) => {
  await page.goto(`${DEMO}/catalogue?sort=-clicks`);
  await expect(page.getByText("items found")).toBeVisible();
  const [first, second] = (await api<{ items: { id: string }[] }>(page, "quillmoor/items?sort=-clicks&limit=2")).items;
  // Keys act on rows that are there: the first page is waited for as a person would.
  await expect(page.getByRole("row").filter({ hasText: second!.id })).toBeVisible();
  await page.getByRole("main").focus();
  await page.keyboard.press("j");
  await page.keyboard.press("j");
  await page.keyboard.press("k");
  await page.keyboard.press("x");
  await expect(page.getByText("1 item selected")).toBeVisible();
  await page.keyboard.press("j");
  await page.keyboard.press("x");
  await expect(page.getByText("2 items selected")).toBeVisible();
  await page.keyboard.press("b");
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("Bid for 2 items");
  await dialog.getByLabel("How").selectOption("Set to an amount");
  await dialog.getByLabel(/^Bid in EUR/).fill("none");
  await expect(dialog.getByText("An amount such as 0.45.")).toBeVisible();
  await expect(dialog.getByRole("button", { name: "Put into the basket" })).toBeDisabled();
  await expectAccessible(page);
  await dialog.getByLabel(/^Bid in EUR/).fill("0,61");
  await page.keyboard.press("Enter");
  await expect(page.getByText("Bid set to €0.61")).toBeVisible();
  const homes = await Promise.all(
    [first!, second!].map(
      async ({ id }) =>
        (await api<{ withBasket: { homes: { bid: number; own: boolean }[] } }>(page, `quillmoor/items/${id}`))
          .withBasket.homes[0],
    ),
  );
  expect(homes).toEqual([
    expect.objectContaining({ bid: 610, own: true }),
    expect.objectContaining({ bid: 610, own: true }),
  ]);
  // In a field Ctrl+Z means what was typed; anywhere else it takes the last edit back, and says what that was.
  const waiting = async () => (await api<{ basket: number }>(page, "quillmoor/till")).basket;
  await page.getByRole("searchbox").focus();
  await page.keyboard.press("Control+z");
  expect(await waiting()).toBeGreaterThan(0);
  await page.keyboard.press("Escape");
  await page.getByRole("main").focus();
  await page.keyboard.press("Control+z");
  await expect(page.getByText("Taken back: Bid set to €0.61")).toBeVisible();
  await expect.poll(waiting).toBe(0);
  await page.keyboard.press("Control+z");
  await expect(page.getByText("Nothing of yours is left to take back here.")).toBeVisible();

  await page.keyboard.press("e");
  await expect(dialog).toContainText("Exclude");
  await page.keyboard.press("Escape");
  await expect(dialog).toHaveCount(0);
  await page.keyboard.press("?");
  const guide = page.getByRole("complementary", { name: "Guide" });
  await expect(guide).toContainText("Next and previous row");
  await expectAccessible(page);
  await page.keyboard.press("?");
  await expect(guide).toHaveCount(0);
});

test("the view is in the address: columns, sort, filter and window come back", async ({ page }) => {
  await page.goto(`${DEMO}/catalogue`);
  await page.getByRole("button", { name: "Columns" }).click();
  await page.getByRole("checkbox", { name: "ACOS", exact: true }).check();
  await page.getByRole("checkbox", { name: "Item ID" }).uncheck();
  await page.keyboard.press("Escape");
  await page.getByRole("combobox", { name: "Window of days" }).selectOption("90");
  await page.getByRole("table", { name: "Items" }).getByRole("button", { name: "ACOS" }).click();
  const table = page.getByRole("table", { name: "Items" });
  await expect(table.getByRole("columnheader", { name: "ACOS" })).toHaveAttribute("aria-sort", "descending");
  await expect(page).toHaveURL(/sort=.*days=90|days=90.*sort=/);
  await page.goto(page.url());
  await expect(table.getByRole("columnheader", { name: "ACOS" })).toHaveAttribute("aria-sort", "descending");
  await expect(table.getByRole("columnheader", { name: "ID", exact: true })).toHaveCount(0);
  await expect(page.getByRole("combobox", { name: "Window of days" })).toHaveValue("90");
});

test("all found items are selected across pages, and copied for a spreadsheet", async ({ page, context }) => {
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  await page.goto(`${DEMO}/catalogue?q=greenhouse`);
  const { total } = await api<{ total: number }>(page, "quillmoor/items?q=greenhouse");
  await expect(page.getByText(`${total} items found`)).toBeVisible();
  await page.getByRole("checkbox", { name: "Select all rows found" }).click();
  await expect(page.getByText(`${total} items selected`)).toBeVisible();
  await page.getByRole("button", { name: "Copy", exact: true }).click();
  await expect(page.getByText(`${total} rows copied`)).toBeVisible();
  const copied = await page.evaluate(() => navigator.clipboard.readText());
  const [head, ...rows] = copied.split("\n").map((line) => line.split("\t"));
  expect(head!.slice(0, 4)).toEqual(["title", "id", "Heat", "Price"]);
  expect(new Set(rows.map((cells) => cells[1])).size).toBe(total);
  expect(rows.every((cells) => cells.length === head!.length)).toBe(true);
});

test("an empty search says so and offers the way back", async ({ page }) => {
  await page.goto(`${DEMO}/catalogue?q=nothing-of-the-kind`);
  await expect(page.getByRole("heading", { name: "No item matches" })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole("button", { name: "Clear search and filters" }).click();
  await expect(page.getByText("1,171 items found")).toBeVisible();
});

test("the dark theme stays when the page is loaded again", async ({ page }) => {
  await page.goto(DEMO);
  await page.getByRole("button", { name: "Switch between light and dark" }).click();
  await expect(page.locator("html")).toHaveAttribute("data-theme", "dark");
  await page.reload();
  await expect(page.locator("html")).toHaveAttribute("data-theme", "dark");
});

test("a server that can't be reached is said, and nothing is lost", async ({ page }) => {
  await page.goto(`${DEMO}/planogram`);
  await expect(page.getByRole("button", { name: /^Daily budget of / }).first()).toBeVisible();
  await page.route("**/api/v1/**/account/edits*", (route) => route.abort());
  await page
    .getByRole("button", { name: /^Daily budget of / })
    .first()
    .click();
  await page.keyboard.type("99.00");
  await page.keyboard.press("Enter");
  await expect(page.getByText("The server can't be reached.")).toBeVisible();
  await expect(page.getByRole("textbox", { name: /^Daily budget of / })).toHaveValue("99.00");
});

test("a page that could not be read is read again by itself once the server answers", async ({ page }) => {
  // The table comes with the page; what an item is about is asked for when it is opened.
  await page.route("**/api/v1/**", (route) => route.abort());
  await page.goto(`${DEMO}/catalogue?item=Q00010`);
  await expect(page.getByRole("alert").getByText("The server can't be reached.")).toBeVisible();
  await page.unrouteAll();
  await expect(page.getByText("Why it is where it is")).toBeVisible();
  await expect(page.getByText("The server can't be reached.")).toHaveCount(0);
});
