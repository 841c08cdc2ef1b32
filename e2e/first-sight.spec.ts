import { expect, test } from "./site";

/** The main views, a word that only their own figures hold, and what they may still ask when they are drawn. */
const VIEWS: [path: string, word: RegExp][] = [
  ["", / a month</],
  ["/catalogue", /role="row"[^]*role="row"/],
  ["/shelves", /role="row"[^]*role="row"/],
  ["/planogram", /role="row"[^]*role="row"/],
  ["/targets", /role="row"[^]*role="row"/],
  ["/bids", /role="row"[^]*role="row"/],
  ["/budgets", /role="row"[^]*role="row"/],
  ["/moves", /role="row"[^]*role="row"/],
  ["/results", /role="row"[^]*role="row"/],
  ["/dispatch", /The basket is empty|changes in the basket/],
];

/** What goes on by itself on every page. */
const ALWAYS = /^(?:session|quillmoor\/jobs)/;
/** What may move after the first paint, as the browser scores it. */
const MOST_SHIFT = 0.02;

test.describe.configure({ mode: "serial" });

test("main views come with their rows, ask for nothing again, and stay where they are", async ({ page, request }) => {
  // What nobody has asked for since the server started is worked out once.
  for (const [path] of VIEWS) await request.get(`/w/quillmoor${path}`);
  await page.addInitScript(() => {
    const seen = window as unknown as { shift: number };
    seen.shift = 0;
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries()) seen.shift += (entry as unknown as { value: number }).value;
    }).observe({ type: "layout-shift", buffered: true });
  });
  const shown = async (path: string, word: RegExp) => {
    const html = await (await request.get(`/w/quillmoor${path}`)).text();
    const drawn = html.replaceAll(/<script[^]*?<\/script>/g, "");
    expect(drawn, path).toMatch(word);
    expect(drawn, path).not.toMatch(/role="status">Loading/);
    const asked: string[] = [];
    const broken: string[] = [];
    page.on("request", (one) => {
      const [, api] = one.url().split("/api/v1/");
      if (api && !ALWAYS.test(api)) asked.push(api);
    });
    page.on("console", (message) => message.type() === "error" && broken.push(message.text()));
    await page.goto(`/w/quillmoor${path}`, { waitUntil: "networkidle" });
    expect([asked, broken], path).toEqual([[], []]);
    const shift = await page.evaluate(() => (window as unknown as { shift: number }).shift);
    expect(shift, path).toBeLessThan(MOST_SHIFT);
    page.removeAllListeners("request").removeAllListeners("console");
  };
  // On a machine that is busy otherwise an answer may come too late to be in the page; never each time.
  for (const [path, word] of VIEWS) await expect(() => shown(path, word)).toPass({ timeout: 40_000 });
});

test("a change of view keeps the old one until the new one is there", async ({ page }) => {
  await page.goto("/w/quillmoor/catalogue");
  await expect(page.getByRole("table", { name: "Items" }).getByRole("row").nth(3)).toBeVisible();
  // Whatever says that it loads, however shortly, is noted.
  await page.evaluate(() => {
    const seen = window as unknown as { loads: string[] };
    seen.loads = [];
    new MutationObserver(() => {
      for (const one of document.querySelectorAll("[role=status]")) {
        if (one.textContent?.startsWith("Loading")) seen.loads.push(one.textContent);
      }
    }).observe(document.body, { subtree: true, childList: true, characterData: true });
  });
  const round = async () => {
    for (const name of ["Shelves", "Targets", "Bids", "Moves", "Results", "Today"]) {
      await page.getByRole("navigation", { name: "Stages" }).getByRole("link", { name, exact: true }).click();
      await expect(page.getByRole("heading", { level: 1, name })).toBeVisible();
    }
    const loads = await page.evaluate(() => (window as unknown as { loads: string[] }).loads.splice(0));
    expect(loads).toEqual([]);
  };
  // On a machine that is busy otherwise an answer may come too late; never in each round.
  await expect(round).toPass({ timeout: 60_000 });
});

test("what is pressed, chosen and typed before a page answers is done as soon as it does", async ({
  browser,
  request,
  site,
}) => {
  const to = `${site.url}/w/quillmoor/results?level=campaign`;
  await expect(async () => expect(await (await request.get(to)).text()).toContain("Search campaigns")).toPass();
  const page = await (await browser.newContext({ baseURL: site.url })).newPage();
  let letGo = () => {};
  const held = new Promise<void>((resolve) => (letGo = resolve));
  await page.route("**/_next/static/**/*.js", async (route) => {
    await held;
    await route.continue();
  });
  // Not by the page's own "goto", which waits for what this test is held before.
  await page.evaluate((there) => (location.href = there), to);
  await page.getByRole("searchbox").last().fill("bulbs");
  await page.getByRole("button", { name: "Log and people" }).click();
  await page.waitForTimeout(300);
  await expect(page.locator("html")).not.toHaveAttribute("data-live", "true");
  letGo();
  await expect(page.locator("html")).toHaveAttribute("data-live", "true");
  await expect(page.getByRole("menuitem").first()).toBeVisible();
  await expect(page).toHaveURL(/bulbs/);
  await page.context().close();
});
