import type { SliceLine } from "@/server/across/results/slice-lines";
import type { Slice } from "@/server/across/results/slice";
import { api } from "./helpers";
import { expect, test } from "./site";

/** The faults that docs/demo.md says are planted in the demo's account, each found in the results of its 120 days. */
const DAYS = "from=2026-07-02&to=2026-10-29&compare=none&limit=100000";
const roas = ({ sums }: SliceLine) => sums.revenue / sums.cost;

test("every fault planted in the demo's account shows in its results", async ({ page }) => {
  const slice = (query: string) => api<Slice>(page, `quillmoor/results?${DAYS}&${query}`);
  const within = (key: string) => `within=${encodeURIComponent(JSON.stringify([{ level: "campaign", key }]))}`;
  const campaigns = new Map((await slice("level=campaign")).lines.map((line) => [line.key, line]));
  const led = campaigns.get("c:led")!;
  expect(roas(led)).toBeGreaterThan(3.5 * 1.3);
  // Of the last 14 days, whatever the window.
  expect(led.dryDays).toBeGreaterThan(12);
  const gloves = campaigns.get("c:gloves")!;
  expect(gloves.dryDays).toBeGreaterThan(12);
  expect(gloves.dryHour).toBeLessThan(15);
  expect(roas(campaigns.get("c:conquest")!)).toBeLessThan(1);

  const words = (await slice(`level=target&${within("c:watering-words")}`)).lines;
  const hog = words.find(({ key }) => key === "t:watering-words/broad/hoses")!;
  expect(hog.sums.cost / words.reduce((sum, { sums }) => sum + sums.cost, 0)).toBeGreaterThan(0.7);
  const mixed = (await slice(`level=target&${within("c:mixed")}`)).lines;
  const rate = (keep: (key: string) => boolean) => {
    const some = mixed.filter(({ key }) => keep(key));
    return some.reduce((sum, { sums }) => sum + sums.revenue, 0) / some.reduce((sum, { sums }) => sum + sums.cost, 0);
  };
  const isBrand = (key: string) => /veldine|ottersby|kestrelgate/.test(key);
  expect(rate(isBrand)).toBeGreaterThan(1.2 * rate((key) => !isBrand(key)));
  expect((await slice(`level=target&${within("c:discover")}`)).lines).toHaveLength(6);

  const costly = (await slice("level=term")).lines.filter(
    ({ sums, name }) => sums.orders === 0 && sums.cost > 30_000 && !name.startsWith("("),
  );
  expect(costly.length).toBeGreaterThan(3);
  const placements = (await slice("level=placement")).lines.map(({ key }) => key);
  expect(placements.some((key) => key.includes("uncut"))).toBe(true);
  expect(placements.some((key) => key.includes("/games/"))).toBe(true);

  const items = new Map((await slice("level=item")).lines.map((line) => [line.key, line.sums]));
  const feeder = items.get("Q04321")!;
  expect(feeder.storeOrders).toBeGreaterThan(5 * feeder.orders);
  expect(feeder.clicks).toBeGreaterThan(100);
  const soldOut = await api<{ items: { id: string }[] }>(
    page,
    `quillmoor/items?limit=200&filter=${encodeURIComponent('[{"field":"availability","op":"is","value":"out of stock"}]')}`,
  );
  expect(soldOut.items.reduce((sum, { id }) => sum + (items.get(id)?.cost ?? 0), 0)).toBeGreaterThan(100_000);
});
