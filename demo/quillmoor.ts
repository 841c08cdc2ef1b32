import { randomFrom, type Random } from "@/core/kit/random";

/** A line of the demo's catalogue plan: where it stands, what it is called, what it costs, how many families. */
interface Line {
  path: string;
  noun: string;
  forms: string[];
  sizes: string[];
  price: [low: number, high: number];
  families: number;
}

const BRANDS = [
  "Thornlea",
  "Ottersby",
  "Brackwell",
  "Veldine",
  "Sunhatch",
  "Pelldew",
  "Harrowfen",
  "Kestrelgate",
  "Quillmoor",
];

function line(
  path: string,
  noun: string,
  forms: string,
  sizes: string,
  low: number,
  high: number,
  families: number,
): Line {
  return { path, noun, forms: forms.split(","), sizes: sizes.split(","), price: [low, high], families };
}

/** What Quillmoor sells: every line a deepest category. */
const LINES: Line[] = [
  line("Watering > Hoses", "Garden Hose", "Flat,Reinforced,Spiral,Soaker,Retracting", "15 m,25 m,50 m", 14, 95, 15),
  line("Watering > Watering cans", "Watering Can", "Galvanised,Long Reach,Indoor,Copper", "1.5 l,5 l,10 l", 9, 64, 14),
  line(
    "Watering > Drip systems",
    "Drip Kit",
    "Balcony,Greenhouse,Raised Bed,Starter",
    "10 plants,25 plants,50 plants",
    19,
    140,
    14,
  ),
  line("Watering > Water butts", "Water Butt", "Slimline,Oak Look,Wall,Folding", "100 l,200 l,350 l", 29, 190, 12),
  line(
    "Hand tools > Spades and forks",
    "Digging Spade",
    "Border,Treaded,Stainless,Long Handle",
    "ladies,standard,tall",
    18,
    79,
    15,
  ),
  line("Hand tools > Secateurs", "Secateurs", "Bypass,Anvil,Ratchet,Left Hand", "small,medium,large", 12, 72, 15),
  line("Hand tools > Hoes and rakes", "Garden Rake", "Leaf,Bow,Fan,Dutch", "40 cm,60 cm", 11, 58, 14),
  line("Hand tools > Trowels", "Hand Trowel", "Slim,Transplanting,Copper,Ash Handle", "narrow,wide", 5, 34, 14),
  line("Hand tools > Gloves", "Garden Gloves", "Thorn Proof,Touch Screen,Leather,Winter", "S,M,L,XL", 4, 32, 18),
  line(
    "Raised beds > Timber beds",
    "Timber Raised Bed",
    "Larch,Oak,Tiered,Corner",
    "120 cm,180 cm,240 cm",
    59,
    420,
    15,
  ),
  line(
    "Raised beds > Metal beds",
    "Metal Raised Bed",
    "Corten,Galvanised,Modular,Round",
    "90 cm,150 cm,210 cm",
    69,
    380,
    14,
  ),
  line("Raised beds > Planters", "Planter Box", "Trough,Wall,Ladder,Cube", "40 cm,60 cm,80 cm", 15, 130, 15),
  line(
    "Raised beds > Soil and compost",
    "Peat-free Compost",
    "Seed,Tomato,Multi-purpose,Ericaceous",
    "20 l,40 l,60 l",
    7,
    29,
    14,
  ),
  line(
    "Seeds > Vegetable seeds",
    "Seeds",
    "Tomato,Courgette,Runner Bean,Carrot,Kale,Beetroot,Pea",
    "packet,bulk",
    1.9,
    9,
    29,
  ),
  line(
    "Seeds > Flower seeds",
    "Seeds",
    "Sweet Pea,Cosmos,Sunflower,Nasturtium,Poppy,Foxglove",
    "packet,bulk",
    1.9,
    8,
    26,
  ),
  line("Seeds > Herb seeds", "Seeds", "Basil,Coriander,Dill,Thyme,Chive", "packet,bulk", 1.9, 7, 20),
  line("Seeds > Lawn seed", "Lawn Seed", "Shade,Hard Wearing,Clover Mix,Fast Repair", "500 g,1 kg,5 kg", 8, 62, 14),
  line(
    "Glasshouses > Greenhouses",
    "Greenhouse",
    "Lean-to,Toughened Glass,Polycarbonate,Victorian",
    "6x4,8x6,10x8",
    390,
    2400,
    14,
  ),
  line("Glasshouses > Cold frames", "Cold Frame", "Cedar,Aluminium,Double,Folding", "60 cm,100 cm", 45, 260, 12),
  line("Glasshouses > Cloches", "Cloche", "Bell,Tunnel,Fleece,Glass", "single,set of 3", 8, 70, 12),
  line(
    "Glasshouses > Heaters and vents",
    "Greenhouse Heater",
    "Paraffin,Electric,Fan,Tubular",
    "500 W,1000 W,2000 W",
    29,
    210,
    12,
  ),
  line(
    "Grow lights > LED panels",
    "LED Grow Light",
    "Full Spectrum,Bar,Dimmable,Quiet",
    "45 W,100 W,240 W",
    39,
    520,
    15,
  ),
  line(
    "Grow lights > Propagators",
    "Heated Propagator",
    "Windowsill,Large,Thermostat,Electric",
    "4 trays,7 trays",
    24,
    160,
    14,
  ),
  line("Grow lights > Timers and stands", "Grow Light Stand", "Tripod,Folding,Shelf,Clamp", "small,large", 14, 110, 12),
  line(
    "Plant care > Plant food",
    "Plant Food",
    "Tomato,Rose,Seaweed,Slow Release,Orchid",
    "500 ml,1 l,2.5 l",
    4,
    28,
    18,
  ),
  line("Plant care > Pest control", "Pest Control", "Slug Wool,Nematode,Sticky Trap,Netting", "small,large", 4, 38, 15),
  line(
    "Plant care > Plant supports",
    "Plant Support",
    "Bamboo,Spiral,Obelisk,Trellis",
    "90 cm,120 cm,180 cm",
    3,
    49,
    15,
  ),
  line("Wildlife > Bird feeders", "Bird Feeder", "Window,Squirrel Proof,Peanut,Ground", "small,large", 7, 54, 15),
  line("Wildlife > Nest boxes", "Nest Box", "Robin,Swift,Camera,Owl", "single,pair", 14, 150, 12),
  line("Wildlife > Insect hotels", "Insect Hotel", "Bee,Ladybird,Butterfly,Tower", "small,large", 9, 68, 12),
];

const HEADINGS = [
  "id",
  "title",
  "description",
  "link",
  "image_link",
  "availability",
  "price",
  "sale_price",
  "brand",
  "product_type",
  "item_group_id",
  "cost_of_goods_sold",
  "quantity",
  "size",
  "season_note",
] as const;

export interface DemoFeed {
  headings: readonly string[];
  rows: string[][];
}

/**
 * The feed of Quillmoor Garden Supply, an invented shop: about 1,200 items in some 420 families, with a few faults of
 * every kind that diagnostics must find. The same seed gives the same feed to the last letter.
 */
export function quillmoorFeed(seed = "quillmoor"): DemoFeed {
  const rows: string[][] = [];
  let familyNo = 0;
  for (const entry of LINES) {
    const random = randomFrom(seed, entry.path);
    const taken = new Set<string>();
    for (let f = 0; f < entry.families; f++) {
      familyNo++;
      const brand = pick(random, BRANDS);
      let form = pick(random, entry.forms);
      for (let tries = 0; taken.has(brand + form) && tries < 20; tries++) form = pick(random, entry.forms);
      taken.add(brand + form);
      rows.push(...familyRows(random, entry, brand, form, familyNo));
    }
  }
  plantFaults(rows);
  return { headings: HEADINGS, rows };
}

/**
 * The feed as it was or will be at another reading: version 0 is the day before, 1 the feed itself, every later one a
 * day on. Each step changes some prices, sells some items out, brings some back, adds a few and drops a few.
 */
export function quillmoorFeedAt(version: number): DemoFeed {
  const feed = quillmoorFeed();
  const at = (heading: (typeof HEADINGS)[number]) => HEADINGS.indexOf(heading);
  const [id, title, price, availability, stock] = [
    at("id"),
    at("title"),
    at("price"),
    at("availability"),
    at("quantity"),
  ];
  const sound = feed.rows.filter((row) => /^\d+\.\d\d EUR$/.test(row[price]!) && row[id] !== "" && row[title] !== "");
  const steps = version === 0 ? [0] : Array.from({ length: version - 1 }, (_, i) => i + 2);
  for (const step of steps) {
    const random = randomFrom("quillmoor", "version", step);
    const some = (count: number) => Array.from({ length: count }, () => pick(random, sound));
    for (const row of some(25)) row[price] = `${(Number(row[price]!.split(" ")[0]) * 1.05).toFixed(2)} EUR`;
    for (const row of some(8)) {
      const isIn = row[availability] === "in stock";
      row[availability] = isIn ? "out of stock" : "in stock";
      row[stock] = isIn ? "0" : "24";
    }
    const leaving = new Set(some(6));
    feed.rows = feed.rows.filter((row) => !leaving.has(row));
    for (const [i, row] of some(5).entries()) {
      const copy = [...row];
      copy[id] = `Q9${step}${i}`;
      copy[title] = `${copy[title]!} (${step === 0 ? "old stock" : "new"})`;
      feed.rows.push(copy);
    }
  }
  return feed;
}

function pick<T>(random: Random, list: readonly T[]): T {
  return list[Math.floor(random() * list.length)] as T;
}

function familyRows(random: Random, entry: Line, brand: string, form: string, familyNo: number): string[][] {
  const [low, high] = entry.price;
  const level = random() ** 1.6;
  const margin = 0.28 + 0.3 * random();
  const family = `F${String(familyNo).padStart(4, "0")}`;
  // Seeds read "Tomato Seeds", tools "Border Digging Spade".
  const name = `${form} ${entry.noun}`;
  return entry.sizes.map((size, i) => {
    const price = (low + (high - low) * level) * (0.8 + (0.45 * i) / Math.max(1, entry.sizes.length - 1));
    const rounded = Math.max(low, Math.round(price * 2) / 2 - 0.05);
    const id = `Q${String(familyNo * 10 + i).padStart(5, "0")}`;
    const slug = `${name}-${size}`.toLowerCase().replace(/[^a-z0-9]+/g, "-");
    const sale = random() < 0.12 ? (rounded * 0.85).toFixed(2) : "";
    const isOut = random() < 0.05;
    return [
      id,
      `${brand} ${name} ${size}`,
      `${name} by ${brand}, ${size}. Made for growers who use it every week.`,
      `https://quillmoor.example/${slug}-${id.toLowerCase()}`,
      `/demo/pictures/${id}`,
      isOut ? "out of stock" : "in stock",
      `${rounded.toFixed(2)} EUR`,
      sale === "" ? "" : `${sale} EUR`,
      brand,
      entry.path,
      family,
      `${(rounded * (1 - margin)).toFixed(2)} EUR`,
      String(isOut ? 0 : 3 + Math.floor(random() * 180)),
      size,
      pick(random, ["", "", "spring", "autumn"]),
    ];
  });
}

/** A few faults of every kind, at fixed places, written down in `docs/demo.md`. */
function plantFaults(rows: string[][]): void {
  const set = (row: number, heading: (typeof HEADINGS)[number], value: string) => {
    rows[row]![HEADINGS.indexOf(heading)] = value;
  };
  set(40, "price", "");
  set(141, "price", "ask us");
  set(242, "title", "");
  set(343, "price", "-4.50 EUR");
  set(444, "price", "19.90 USD");
  set(545, "price", "12.00 QQQ");
  set(646, "id", rows[600]![0]!);
  set(747, "id", "");
  set(848, "sale_price", "9999.00 EUR");
  set(949, "availability", "maybe next week");
  set(950, "product_type", "");
  set(951, "product_type", "");
  set(152, "link", "quillmoor.example without scheme");
  set(253, "title", `${"Very Long ".repeat(16)}Garden Hose`);
  set(354, "brand", "");
  set(355, "brand", "");
}
