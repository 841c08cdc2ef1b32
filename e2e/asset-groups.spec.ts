import { crc32, deflateSync } from "node:zlib";
import { api, choose, DEMO, expectAccessible, jobsDone } from "./helpers";
import { expect, test } from "./site";

/** Asset groups planned by a ladder, their lines and pictures written, sent, run, and seen. The steps build on each other. */
test.describe.configure({ mode: "serial" });

interface Group {
  adGroup: string;
  name: string;
  items: number;
  complete: number;
  wrong: string[];
  sums: { impressions: number; clicks: number };
}
const groups = (list: { groups: Group[] }) => list.groups;

/** A PNG of one colour. */
function png(side: number): Buffer {
  const chunk = (type: string, data: Buffer) => {
    const body = Buffer.concat([Buffer.from(type), data]);
    const [size, check] = [Buffer.alloc(4), Buffer.alloc(4)];
    size.writeUInt32BE(data.length);
    check.writeUInt32BE(crc32(body));
    return Buffer.concat([size, body, check]);
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(side, 0);
  head.writeUInt32BE(side, 4);
  head.set([8, 0], 8);
  const rows = deflateSync(Buffer.alloc(side * (side + 1), 120));
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk("IHDR", head),
    chunk("IDAT", rows),
    chunk("IEND", Buffer.alloc(0)),
  ]);
}

test("a ladder makes asset groups; lines and pictures are written and checked against the items", async ({ page }) => {
  await page.goto(`${DEMO}/planogram/assets`);
  await expect(page.getByText("No asset groups yet")).toBeVisible();
  await expectAccessible(page);
  await page.getByRole("button", { name: "Plan asset groups" }).first().click();
  await expect(page.getByLabel("Kind of campaign")).toHaveValue("asset");
  await page.getByRole("button", { name: "Write assets" }).click();
  const dialog = page.getByRole("dialog", { name: "Assets of every asset group" });
  const readiness = dialog.getByRole("list", { name: "Readiness" });
  await expect(readiness).toContainText("of 1,100 items get an ad");

  await test.step("a line too long is named with the item that it is too long for", async () => {
    await expect(dialog.getByRole("group", { name: "Headline 1" })).toContainText(/\d+ too long, up to 171 of 34/);
  });
  await test.step("several lines are pasted at once, and a field is put between texts", async () => {
    await dialog.getByRole("button", { name: "Add a headline" }).click();
    const text = dialog.getByLabel("Headline 4: text 1");
    await text.focus();
    await page.evaluate(() => {
      const data = new DataTransfer();
      data.setData("text", "For every garden\nSent the same day\nMade to last");
      document.activeElement!.dispatchEvent(
        new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }),
      );
    });
    await expect(dialog.getByLabel("Headline 6: text 1")).toHaveValue("Made to last");
    await dialog.getByRole("button", { name: "Add a description" }).click();
    await dialog.getByLabel("Description 2: text 1").fill("From ");
    const second = dialog.getByRole("group", { name: "Description 2" });
    await second.getByRole("button", { name: "+ field" }).click();
    await choose(dialog.getByRole("combobox", { name: "Field for description 2" }), "Brand");
    await second.getByRole("button", { name: "+ text" }).click();
    await dialog.getByLabel("Description 2: text 3").fill(", sent the same day.");
    await expect(second).toContainText(/longest \d+ of 95/);
  });
  await test.step("a picture too small is refused in words, a fitting one is taken", async () => {
    const upload = dialog.getByLabel("Upload for pictures");
    await upload.setInputFiles({ name: "tiny.png", mimeType: "image/png", buffer: png(40) });
    await expect(page.getByText("“tiny.png” measures 40 × 40 pixels")).toBeVisible();
    await upload.setInputFiles({ name: "notes.txt", mimeType: "text/plain", buffer: Buffer.from("no picture") });
    await expect(page.getByText("“notes.txt” is no PNG, JPEG or WebP picture.")).toBeVisible();
    await upload.setInputFiles({ name: "shop.png", mimeType: "image/png", buffer: png(320) });
    await expect(dialog.getByRole("button", { name: "Remove shop.png" })).toBeVisible();
    await expect(readiness).toContainText("2 pictures");
  });
  await dialog.getByRole("checkbox", { name: "Leave own-brand terms out" }).check();
  await test.step("what one item would show", async () => {
    await dialog.getByRole("searchbox", { name: "Find an item" }).fill("Q00851");
    await expect(dialog.getByRole("list", { name: "Ads by item" }).getByRole("listitem")).toHaveCount(1);
  });
  await expectAccessible(page);
  await dialog.getByRole("button", { name: "Use these" }).click();
  await expect(page.getByText("6 headlines, 2 descriptions, 2 pictures")).toBeVisible();
  await page.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page).toHaveURL(/dispatch/);
  await page.getByRole("button", { name: "Send to the test market" }).click();
  await expect(page.getByText("Dispatch sent")).toBeVisible();
});

test("they serve, and are reported by asset group; one without lines waits and says for what", async ({ page }) => {
  test.setTimeout(180_000);
  await page.goto(`${DEMO}/planogram/assets`);
  const table = page.getByRole("table", { name: "Asset groups" });
  await expect(table.getByRole("row").nth(1)).toBeVisible();
  const before = groups(await api(page, "quillmoor/asset-groups?days=7"));
  expect(before.length).toBeGreaterThan(5);
  expect(before.reduce((sum, { items }) => sum + items, 0)).toBe(1100);
  const starved = before.find(({ items }) => items > 50)!;
  await table.getByRole("button", { name: new RegExp(`^${starved.name}`) }).click();
  const dialog = page.getByRole("dialog", { name: `Assets of ${starved.name}` });
  for (let left = 2; left > 0; left--) {
    await dialog.getByRole("button", { name: `Remove description ${left}` }).click();
  }
  await expect(dialog.getByRole("list", { name: "Readiness" })).toContainText("1 description more needed");
  await dialog.getByRole("button", { name: "Put into the basket" }).click();
  await expect(page.getByText(/1 change in the basket$/).first()).toBeVisible();
  await expect(table.getByRole("row", { name: new RegExp(`^.*${starved.name}`) })).toContainText(
    "waits for descriptions",
  );
  await page.goto(`${DEMO}/dispatch`);
  await expect(page.getByText(/2 descriptions → 0 descriptions/).first()).toBeVisible();
  await page.getByRole("button", { name: "Send to the test market" }).click();
  await expect(page.getByText("Dispatch sent")).toBeVisible();

  await page.goto(`${DEMO}/results/market`);
  await page.getByLabel("Days to run").selectOption("7");
  await page.getByRole("button", { name: "Run the test market" }).click();
  await jobsDone(page, "quillmoor", 120);
  const after = groups(await api(page, "quillmoor/asset-groups?days=7"));
  for (const { adGroup, items, wrong, sums } of after) {
    if (adGroup === starved.adGroup) expect([wrong, sums.impressions]).toEqual([["descriptions"], 0]);
    else if (items > 50) expect(sums.impressions).toBeGreaterThan(0);
  }
  // The same figures as any report by ad group.
  const { lines } = await api<{ lines: { key: string; sums: Group["sums"] }[] }>(
    page,
    "quillmoor/results?level=adGroup&days=7&limit=5000",
  );
  const reported = new Map(lines.map(({ key, sums }) => [key, sums.clicks]));
  for (const { adGroup, sums } of after) expect(sums.clicks).toBe(reported.get(adGroup) ?? 0);
  await page.goto(`${DEMO}/planogram/assets?days=7`);
  await expect(table.getByRole("row").nth(1)).toBeVisible();
  await expectAccessible(page);
  await page.goto(`${DEMO}/planogram?q=${encodeURIComponent(starved.name)}`);
  await expect(page.getByText("waits for its assets").first()).toBeVisible();
});
