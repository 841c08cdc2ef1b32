import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { checkPage, jsonLdIn } from "@/core/catalogue/check-page";
import { forgetSettings } from "../../settings";
import { importFeed, runToEnd, testWorkspace } from "../../testing";
import { diagnose } from "./diagnose";
import { findItems, itemsQuerySchema } from "./items";
import { windowOfDays } from "../../results/window";

const product = (more: object) =>
  `<html><script type="application/ld+json">${JSON.stringify({ "@type": "Product", ...more })}</script></html>`;
const offer = (price: number, availability = "InStock") => ({
  offers: { price, priceCurrency: "EUR", availability: `https://schema.org/${availability}` },
});

/** What the shop serves at each path. */
const PAGES: Record<string, string> = {
  "/fine": product({ sku: "fine", ...offer(5) }),
  "/price": product({ sku: "price", ...offer(7) }),
  "/soldout": product({ sku: "soldout", ...offer(5, "OutOfStock") }),
  "/variant": product({ sku: "fine", ...offer(5) }),
  "/silent": "<html><h1>No data here</h1></html>",
  "/": "<html><h1>Front page</h1></html>",
};

let server: Server;
let atOnce = 0;
let mostAtOnce = 0;

beforeAll(async () => {
  server = createServer((request, response) => {
    atOnce++;
    mostAtOnce = Math.max(mostAtOnce, atOnce);
    setTimeout(() => {
      atOnce--;
      const { pathname } = new URL(request.url!, "http://x");
      if (pathname === "/moved") response.writeHead(301, { location: "/" });
      else if (pathname === "/broken") response.writeHead(500);
      else response.writeHead(PAGES[pathname] ? 200 : 404, { "content-type": "text/html" });
      response.end(PAGES[pathname] ?? "");
    }, 10);
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  process.env["HOTSHELF_HOSTS"] = `shop.example=127.0.0.1:${(server.address() as AddressInfo).port}`;
  process.env["HOTSHELF_LINK_GAP_MS"] = "1";
  forgetSettings();
});
afterAll(() => new Promise((resolve) => server.close(resolve)));

describe("landing links", () => {
  it("are looked at politely, and every fault is told apart", async () => {
    const workspace = await testWorkspace();
    const { db, info } = workspace;
    const ids = ["fine", "price", "soldout", "variant", "gone", "moved", "broken", "silent"];
    const rows = ids.map((id) => `${id},Garden thing ${id},5.00,https://shop.example/${id}`);
    await importFeed(workspace, `id,title,price,link\n${rows.join("\n")}\nnolink,Garden thing without,5,\n`);
    const job = await runToEnd(db, info, "link-check", { most: 100 });
    expect(job.result).toEqual({
      checked: 8,
      states: {
        fine: 1,
        price: 1,
        "sold-out": 1,
        variant: 1,
        gone: 1,
        moved: 1,
        unreachable: 1,
        unread: 1,
      },
    });
    expect(mostAtOnce).toBeLessThanOrEqual(2);
    const faults = new Map((await diagnose(db)).map((fault) => [fault.code, fault]));
    expect(faults.get("link-gone")).toMatchObject({ count: 1, severity: "money" });
    expect(faults.get("link-price")!.count).toBe(1);
    // The fault's own filter finds the item it counts.
    const where = { match: "all" as const, of: [{ field: "fault:link-price", op: "filled" as const, value: "" }] };
    const found = await findItems(db, info, itemsQuerySchema.parse({ where }), await windowOfDays(db, 30));
    expect(found.items.map(({ id }) => id)).toEqual(["price"]);
    // Put right and looked at again, it is a fault no more.
    PAGES["/price"] = product({ sku: "price", ...offer(5) });
    await runToEnd(db, info, "link-check", { most: 100 });
    expect((await diagnose(db)).some(({ code }) => code === "link-price")).toBe(false);
  });
});

describe("a page", () => {
  const item = { id: "0012", gtin: "", price: 5000, currency: "EUR", availability: "in stock" };
  const look = (html: string, ours: string[] = []) => checkPage(html, item, (id) => ours.includes(id)).state;

  it("is read from its product data, whatever else stands on it", () => {
    const several = `<script type="application/ld+json">{"@type":"BreadcrumbList"}</script>${product({ sku: "12", ...offer(5) })}`;
    expect(look(several)).toBe("fine");
    expect(look(`<script type='application/ld+json'>{ broken</script>`)).toBe("unread");
    expect(jsonLdIn("<script>alert(1)</script>")).toEqual([]);
    const group = product({ "@type": "ProductGroup", hasVariant: [{ "@type": "Product", sku: "0012", ...offer(6) }] });
    expect(look(group)).toBe("price");
    // One product under an unknown number is taken as the item; under another item's number it is the wrong page.
    expect(look(product({ sku: "X9", ...offer(5) }))).toBe("fine");
    expect(look(product({ sku: "X9", ...offer(5) }), ["X9"])).toBe("variant");
  });
});
