import { createServer, type IncomingMessage, type ServerResponse } from "node:http";
import Papa from "papaparse";
import { z } from "zod";
import { hostChannel } from "@/server/channel/host";
import { MemoryChannel } from "@/server/channel/memory-channel";
import { quillmoorFeedAt } from "./quillmoor";

/**
 * Stand-ins for the outside world of the demo, so that it needs no network: the host that serves Quillmoor's feed,
 * Quillmoor's shop with its product pages, and a platform to send to. What they do can be changed over `/control`: another version of the feed,
 * or a way of misbehaving.
 */

const MODES = ["fine", "slow", "failing", "page", "endless", "cut-off", "to-private"] as const;

const controlSchema = z.object({
  mode: z.enum(MODES).default("fine"),
  /** Version of the feed; see `quillmoorFeedAt`. */
  version: z.number().int().min(0).max(50).optional(),
});

let mode: (typeof MODES)[number] = "fine";
let version = 1;
const asked = { feed: 0, notModified: 0, pages: 0 };

/** What is wrong with some pages of the shop, by the last digits of the item's ID. */
function pageFault(id: string): "gone" | "price" | "sold-out" | "variant" | "moved" | null {
  const number = Number(id.replace(/\D/g, "")) || 0;
  if (number % 190 === 0) return "gone";
  if (number % 170 === 0) return "price";
  if (number % 210 === 0) return "sold-out";
  if (number % 230 === 0) return "variant";
  return number % 370 === 0 ? "moved" : null;
}

async function bodyOf(request: IncomingMessage): Promise<string> {
  let text = "";
  for await (const piece of request) text += String(piece);
  return text;
}

function send(response: ServerResponse, status: number, type: string, body: string, headers: object = {}): void {
  response.writeHead(status, { "content-type": type, "content-length": Buffer.byteLength(body), ...headers });
  response.end(body);
}

function serveFeed(request: IncomingMessage, response: ServerResponse): void {
  asked.feed++;
  const etag = `"quillmoor-${version}"`;
  if (mode === "failing") return send(response, 503, "text/plain", "come back later");
  if (mode === "page") return send(response, 200, "text/html", "<!doctype html><p>Please log in");
  if (mode === "to-private") {
    response.writeHead(302, { location: "http://127.0.0.1:22/secret.csv" });
    return void response.end();
  }
  if (mode === "endless") {
    response.writeHead(200, { "content-type": "text/csv" });
    const timer = setInterval(() => response.write("id,title,price\n"), 20);
    return void response.on("close", () => clearInterval(timer));
  }
  if (request.headers["if-none-match"] === etag) {
    asked.notModified++;
    response.writeHead(304, { etag });
    return void response.end();
  }
  const { headings, rows } = quillmoorFeedAt(version);
  const body = Papa.unparse([[...headings], ...rows]);
  if (mode === "cut-off") {
    response.writeHead(200, { "content-type": "text/csv", "content-length": Buffer.byteLength(body) });
    return void response.write(body.slice(0, 2000), () => response.destroy());
  }
  const answer = () => send(response, 200, "text/csv; charset=utf-8", body, { etag });
  if (mode === "slow") setTimeout(answer, 3000);
  else answer();
}

function servePage(path: string, response: ServerResponse): void {
  asked.pages++;
  const { headings, rows } = quillmoorFeedAt(version);
  const at = (heading: (typeof headings)[number]) => headings.indexOf(heading);
  const row = rows.find((cells) => cells[at("link")]?.endsWith(path) && cells[at("id")] !== "");
  const fault = row ? pageFault(row[at("id")]!) : "gone";
  if (path === "/") return send(response, 200, "text/html", "<!doctype html><h1>Quillmoor Garden Supply</h1>");
  if (!row || fault === "gone") return send(response, 404, "text/html", "<!doctype html><h1>Not here</h1>");
  if (fault === "moved") {
    response.writeHead(301, { location: "/" });
    return void response.end();
  }
  const [amount = "", currency = ""] = (row[at("sale_price")] || row[at("price")]!).split(" ");
  const shown = fault === "price" ? (Number(amount) + 2).toFixed(2) : amount;
  const isOut = fault === "sold-out" || row[at("availability")] === "out of stock";
  const other = rows[(rows.indexOf(row) + 7) % rows.length]!;
  const product = {
    "@context": "https://schema.org",
    "@type": "Product",
    sku: fault === "variant" ? other[at("id")] : row[at("id")],
    name: row[at("title")],
    offers: {
      "@type": "Offer",
      price: shown,
      priceCurrency: currency,
      availability: `https://schema.org/${isOut ? "OutOfStock" : "InStock"}`,
    },
  };
  const data = JSON.stringify(product).replaceAll("<", "\\u003c");
  send(
    response,
    200,
    "text/html; charset=utf-8",
    `<!doctype html><title>Quillmoor</title><script type="application/ld+json">${data}</script><h1>Quillmoor</h1>`,
  );
}

/** A platform of somebody else's that speaks `docs/channel.md` and can't carry everything; its token is “garden”. */
const platform = hostChannel(
  new MemoryChannel(
    {
      ...{ campaignKinds: ["feed", "keyword", "listing"], matchTypes: ["exact", "phrase"] },
      ...{ without: { campaign: ["folder", "flex"] }, exclusions: { workspace: ["item"], keyword: ["term"] } },
      ...{ nameLength: 60, lowestBid: 50 },
    },
    [],
    "Garden Ads",
  ),
  "garden",
);

async function handle(request: IncomingMessage, response: ServerResponse): Promise<void> {
  if (request.headers.host?.startsWith("ads.")) return void platform.emit("request", request, response);
  const { pathname } = new URL(request.url ?? "/", "http://stand-in");
  if (pathname === "/control") {
    if (request.method === "POST") {
      const change = controlSchema.parse(JSON.parse(await bodyOf(request)));
      mode = change.mode;
      version = change.version ?? version;
    }
    return send(response, 200, "application/json", JSON.stringify({ mode, version, asked }));
  }
  if (request.headers.host?.startsWith("feeds.")) serveFeed(request, response);
  else servePage(pathname, response);
}

const port = Number(process.env["STAND_IN_PORT"] ?? 4311);
createServer((request, response) => {
  handle(request, response).catch((error: unknown) => send(response, 400, "text/plain", String(error)));
}).listen(port, "127.0.0.1");
// When the start script goes, its pipe closes and so does this.
process.stdin.on("end", () => process.exit(0)).resume();
