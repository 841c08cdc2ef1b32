import { chromium } from "@playwright/test";

/** Every main view, below a workspace's address. */
const PAGES = [
  ...["", "/catalogue", "/shelves", "/planogram", "/targets", "/targets/listings", "/bids", "/budgets", "/exclusions"],
  ...["/moves", "/dispatch", "/results", "/results?level=item", "/results/market"],
];

export interface Look {
  page: string;
  /** Until its rows are there, ms. */
  ms: number;
}

/** Looks at the views of a workspace as people do, at the pages themselves. */
export class Looks {
  constructor(private readonly base: string) {}

  /** How long each view takes until its page comes with its rows: one that comes without is asked for again. */
  async all(): Promise<Look[]> {
    const found: Look[] = [];
    for (const page of PAGES) {
      const began = performance.now();
      while (!isWhole(await this.page(page)));
      found.push({ page: page || "/", ms: performance.now() - began });
    }
    return found;
  }

  private async page(page: string): Promise<string> {
    const answer = await fetch(this.base + page);
    if (!answer.ok) throw new Error(`${page}: ${answer.status}`);
    return answer.text();
  }

  /** First contentful paint of each view in the browser, and what moves on it after that. */
  async paints(): Promise<(Look & { shift: number })[]> {
    const browser = await chromium.launch({
      executablePath: process.env["CHROMIUM_PATH"] ?? "/usr/bin/chromium",
      args: ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-sync"],
    });
    try {
      const tab = await browser.newPage({ viewport: { width: 1280, height: 800 } });
      await tab.addInitScript(() => {
        const seen = window as unknown as { shift: number };
        seen.shift = 0;
        new PerformanceObserver((list) => {
          for (const entry of list.getEntries()) seen.shift += (entry as unknown as { value: number }).value;
        }).observe({ type: "layout-shift", buffered: true });
      });
      const found: (Look & { shift: number })[] = [];
      for (const page of PAGES) {
        await tab.goto(this.base + page, { waitUntil: "networkidle" });
        const [ms, shift] = await tab.evaluate(() => [
          performance.getEntriesByName("first-contentful-paint")[0]?.startTime ?? NaN,
          (window as unknown as { shift: number }).shift,
        ]);
        found.push({ page: page || "/", ms: ms!, shift: shift! });
      }
      return found;
    } finally {
      await browser.close();
    }
  }
}

/** Whether a page came with what it shows, and not with a place where it will stand. */
function isWhole(html: string): boolean {
  return !/role="status">Loading/.test(html.replaceAll(/<script[^]*?<\/script>/g, ""));
}

export const toldLooks = (looks: Look[]) => looks.map(({ page, ms }) => `${page} ${ms.toFixed(0)}`).join(", ");
