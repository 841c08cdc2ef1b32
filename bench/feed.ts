import { createWriteStream } from "node:fs";
import { once } from "node:events";
import { randomFrom } from "@/core/kit/random";

const NOUNS = ["Lamp", "Shade", "Cable", "Socket", "Dimmer", "Bulb", "Spot", "Panel", "Strip", "Lantern"];
const ROOMS = ["Kitchen", "Bath", "Hall", "Office", "Garden", "Attic", "Stair", "Shop"];

export const BENCH_HEADINGS = [
  "id",
  "title",
  "description",
  "link",
  "image_link",
  "availability",
  "price",
  "brand",
  "product_type",
  "item_group_id",
  "cost_of_goods_sold",
  "quantity",
];

/** A row of the made-up lighting feed. `changed` gives the row another price. */
export function benchRow(i: number, changed: boolean): string[] {
  const random = randomFrom("bench", i);
  const noun = NOUNS[Math.floor(random() * NOUNS.length)]!;
  const room = ROOMS[Math.floor(random() * ROOMS.length)]!;
  const price = (4 + 300 * random() ** 2 + (changed ? 1 : 0)).toFixed(2);
  return [
    `B${i}`,
    `${room} ${noun} model ${i % 977} with ${Math.floor(random() * 40)} watts`,
    `A ${noun.toLowerCase()} for the ${room.toLowerCase()}, made to last; fits most fittings, see sheet ${i}.`,
    `https://lights.example/${room}/${noun}/${i}`.toLowerCase(),
    `https://lights.example/p/${i}.jpg`,
    random() < 0.06 ? "out of stock" : "in stock",
    `${price} EUR`,
    `Maker ${Math.floor(random() ** 2 * 120)}`,
    `Lighting > ${room} > ${noun}`,
    `G${Math.floor(i / 3)}`,
    `${(Number(price) * 0.6).toFixed(2)} EUR`,
    String(Math.floor(random() * 300)),
  ];
}

/** Writes the feed as CSV; every `changeEvery`-th row changed when given. */
export async function writeBenchFeed(file: string, rows: number, changeEvery = 0): Promise<void> {
  const out = createWriteStream(file);
  out.write(`${BENCH_HEADINGS.join(",")}\n`);
  for (let i = 0; i < rows; i++) {
    const cells = benchRow(i, changeEvery > 0 && i % changeEvery === 0);
    const line = cells.map((cell) => (cell.includes(",") ? `"${cell}"` : cell)).join(",");
    if (!out.write(`${line}\n`)) await once(out, "drain");
  }
  out.end();
  await once(out, "finish");
}
