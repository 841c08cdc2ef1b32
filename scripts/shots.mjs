// npm run shots -- URL FOLDER [name=path ...]: takes a picture of each main view of a running demo at 1280 by 800.
// --dark takes them in the dark theme.
import path from "node:path";
import { chromium } from "@playwright/test";

export const VIEWS = {
  today: "",
  catalogue: "/catalogue",
  item: "/catalogue?item=Q00010&days=90",
  rules: "/catalogue/fields/season",
  faults: "/catalogue/faults",
  shelves: "/shelves",
  "planogram-plan": "/planogram?plan=new",
  planogram: "/planogram",
  copy: "/copy?plan=by-kind",
  targets: "/targets",
  bids: "/bids",
  budgets: "/budgets",
  moves: "/moves",
  exclusions: "/exclusions",
  placements: "/exclusions/placements",
  dispatch: "/dispatch",
  results: "/results?days=60",
  stocktake: "/stocktake",
  // Last, since it runs days of the market.
  experiments: "/experiments",
};

const [url = "http://127.0.0.1:4310/w/quillmoor", folder = "docs/screenshots", ...asked] = process.argv
  .slice(2)
  .filter((argument) => argument !== "--dark");
const views = asked.length > 0 ? Object.fromEntries(asked.map((text) => text.split(/=(.*)/s))) : VIEWS;
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM_PATH ?? "/usr/bin/chromium",
  args: [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
  ],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on("pageerror", (error) => console.error("page error:", error.message));
page.on("console", (message) => message.type() === "error" && console.error("console:", message.text()));
if (process.argv.includes("--dark")) await page.addInitScript(() => localStorage.setItem("theme", "dark"));
/** Puts a planogram by shelf into the basket, so that the dispatch view has something to show. */
async function fillBasket() {
  const api = url.replace("/w/", "/api/v1/");
  const post = async (path, data) => {
    const answer = await page.request.post(`${api}/${path}`, { data });
    if (!answer.ok()) throw new Error(`${path}: ${await answer.text()}`);
    return answer.json();
  };
  const part = (level) => [{ kind: "field", field: `level-${level}` }];
  await post("planograms", {
    key: "by-shelf",
    name: "By shelf",
    ladder: ["shelf:return-tiers", "category1"].map((by) => ({ by, largest: null })),
    campaignLine: 1,
    adGroupLine: 2,
    inStockOnly: true,
    campaignName: part(1),
    adGroupName: part(2),
    purpose: "scale",
    bidding: "fixed",
    goal: 3.5,
    totalBudget: 205_000,
    shareBy: "revenue",
    startingBid: 480,
    serveOrder: 3,
    replaces: ["c:everything"],
  });
  const { job } = await post("planograms/by-shelf/apply", {});
  while ((await (await page.request.get(`${api}/jobs/${job}`)).json()).state !== "done") await page.waitForTimeout(200);
  return () => post("basket/remove", { keys: "all" });
}

/** Two copy plans, one of which has something to be looked at in the proof. */
async function keepPlans() {
  const api = url.replace("/w/", "/api/v1/");
  const plan = await (await page.request.get(`${api}/copy-plans/fresh`)).json();
  const byItem = { groupsBy: ["id"], adGroupName: [{ kind: "field", field: "product" }], banned: ["growers", "bulk"] };
  for (const change of [
    { key: "by-kind", name: "By kind of thing" },
    { key: "by-item", name: "Item by item", ...byItem },
  ])
    await page.request.post(`${api}/copy-plans`, { data: { ...plan, ...change } });
}

/** Takes stock, so that there is something to read. */
async function takeStock() {
  const api = url.replace("/w/", "/api/v1/");
  const { job } = await (await page.request.post(`${api}/stocktakes`, { data: {} })).json();
  while ((await (await page.request.get(`${api}/jobs/${job}`)).json()).state !== "done") await page.waitForTimeout(200);
}

/** An experiment that is over and one that runs. */
async function tryThings() {
  const api = url.replace("/w/", "/api/v1/");
  const post = async (path, data) => {
    const answer = await page.request.post(`${api}/${path}`, { data });
    if (!answer.ok()) throw new Error(`${path}: ${await answer.text()}`);
    return answer.json();
  };
  const isBusy = ({ kind, state }) => kind !== "make-ready" && (state === "waiting" || state === "running");
  const allDone = async () => {
    while ((await (await page.request.get(`${api}/jobs`)).json()).some(isBusy)) await page.waitForTimeout(500);
  };
  const tried = async (definition, days) => {
    await post("experiments", { seed: "shots", definition });
    await post("dispatches", {});
    await allDone();
    await post("market/run", { days });
    await allDone();
  };
  const bids = { design: "items", change: { kind: "item-bid", percent: -50 }, together: "category" };
  await tried({ name: "Half the bid", ...bids, measure: "clicks", least: 60, days: 14 }, 14);
  await post("experiments/1/end", { how: "take back" });
  const off = { design: "days", change: { kind: "pause" }, campaigns: ["c:conquest"] };
  await tried({ name: "Without conquest", ...off, measure: "contribution", least: 8000, days: 28 }, 18);
}

for (const [name, view] of Object.entries(views)) {
  const undo = name === "dispatch" ? await fillBasket() : null;
  if (name === "copy") await keepPlans();
  if (name === "stocktake") await takeStock();
  if (name === "experiments") await tryThings();
  await page.goto(url + view, { waitUntil: "networkidle" });
  // A view is photographed once all that it shows is there; one that never gets there is no picture.
  await page.waitForFunction(
    () => !/\b(?:Loading|Looking|Working)\b[^…\n]*…/.test(document.querySelector("main")?.innerText ?? "…"),
  );
  await page.waitForTimeout(600);
  await page.screenshot({ path: path.join(folder, `${name}.png`) });
  await undo?.();
  console.log(name);
}
await browser.close();
