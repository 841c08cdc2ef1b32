import { normal, randomFrom } from "../kit/random";
import type { Nature } from "./nature";
import type { Placement, Surface } from "./world-types";

/** How many partner placements the market has. */
export const PLACEMENT_COUNT = 300;

const SUBJECTS = ["football", "celebrity news", "crypto tips", "horoscopes", "car tuning", "mobile games", "recipes"];
const SITE_WORDS = ["journal", "daily", "diary", "weekly", "notes", "corner", "almanac", "post"];
const SHOWN = ["Lifestyle network", "Home and leisure", "Premium audience", "Family channel"];

/**
 * The market's partner placements: two fifths about the catalogue's departments, the rest about something else; some
 * are games whose clicks come by mistake, and some are not fit for a shop's ads.
 */
export function makePlacements(seed: string, departments: string[]): Placement[] {
  const topics = departments.length > 0 ? departments : ["everything"];
  return Array.from({ length: PLACEMENT_COUNT }, (_, i) => {
    const random = randomFrom(seed, "placement", i);
    const isOnTopic = random() < 0.4;
    const topic = isOnTopic
      ? topics[Math.floor(random() * topics.length)]!
      : SUBJECTS[Math.floor(random() * SUBJECTS.length)]!;
    const kind = (["site", "site", "app", "channel"] as const)[Math.floor(random() * 4)]!;
    const isGame = topic === "mobile games" || (kind === "app" && !isOnTopic && random() < 0.5);
    const isUnsafe = !isOnTopic && random() < 0.14;
    const word = topic.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, "-");
    const ending = isUnsafe ? "uncut" : SITE_WORDS[Math.floor(random() * SITE_WORDS.length)]!;
    const address =
      kind === "app"
        ? `app.example/${isGame ? "games" : word}/${i}`
        : kind === "channel"
          ? `clips.example/${word}-${ending}-${i}`
          : `${word}-${ending}-${i}.example`;
    return {
      address,
      name: isGame || isUnsafe ? SHOWN[i % SHOWN.length]! : `${topic} ${ending}`,
      kind,
      topic,
      isUnsafe,
      // Games draw clicks by mistake: many, and hardly any of them buys.
      ctr: (isGame ? 2.6 : isOnTopic ? 1.1 : 0.7) * Math.exp(0.25 * normal(random)),
      cvr: (isGame ? 0.03 : isOnTopic ? 1.2 : 0.35) * Math.exp(0.3 * normal(random)),
      volume: 420 * Math.exp(0.9 * normal(random)) * (isGame ? 1.8 : 1),
    };
  });
}

/** Placements of one category: those of its department, and a few of all the others. */
const OWN_TOPIC = 7;
const OTHER_TOPIC = 7;

/** The surfaces that partner placements make in one category, with their share of the placements' views. */
export function placementSurfaces(
  seed: string,
  category: string,
  placements: Placement[],
  share: number,
  count: number,
  rivalMean: number,
  nature: Nature,
): Omit<Surface, "id">[] {
  const department = category.split(/\s*[>›|»]\s*/)[0];
  const random = randomFrom(seed, "reach", category);
  const own = placements.filter(({ topic }) => topic === department);
  const others = placements.filter(({ topic }) => topic !== department);
  const pick = (list: Placement[], most: number) =>
    list
      .map((placement) => ({ placement, at: random() }))
      .sort((a, b) => a.at - b.at)
      .slice(0, most)
      .map(({ placement }) => placement);
  return [...pick(own, OWN_TOPIC), ...pick(others, OTHER_TOPIC)].map((placement) => ({
    kind: "placement",
    queryClass: null,
    label: placement.address,
    listing: null,
    ownRow: -1,
    volume: placement.volume * share * Math.exp(0.3 * normal(random)),
    rivalMean,
    rivalSpread: 0.8,
    ctr: placement.ctr,
    cvr: placement.cvr,
    fit: new Float64Array(count).fill(placement.topic === department ? 0.85 : 0.6),
    lift: null,
    incremental: nature.genericNew,
  }));
}
