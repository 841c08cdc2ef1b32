import type { ReachName } from "../account/records/reach";
import { randomFrom } from "../kit/random";
import type { Surface, World } from "./world-types";

/** How many categories of its department lie around one. */
const AROUND = 3;

/** The categories, by number, that automatic reach leads to from one: what goes with it, and some of its department. */
interface Neighbours {
  beside: number | null;
  around: number[];
}

/** What was found in a world so far. */
interface Known {
  departments: Map<string, number[]>;
  neighbours: Map<number, Neighbours>;
}

const known = new WeakMap<World, Known>();

function departmentOf(category: string): string {
  return category.split(/\s*[>›|»]\s*/)[0]!;
}

function knownOf(world: World): Known {
  let found = known.get(world);
  if (!found) {
    const departments = new Map<string, number[]>();
    world.categories.forEach(({ name }, at) => {
      const list = departments.get(departmentOf(name));
      if (list) list.push(at);
      else departments.set(departmentOf(name), [at]);
    });
    known.set(world, (found = { departments, neighbours: new Map() }));
  }
  return found;
}

/** Drawn by the world's seed and the categories' names, so that neighbours stay neighbours when others come and go. */
function neighboursOf(world: World, category: number): Neighbours {
  const { departments, neighbours } = knownOf(world);
  let found = neighbours.get(category);
  if (!found) {
    const { name } = world.categories[category]!;
    const near = departments
      .get(departmentOf(name))!
      .filter((at) => at !== category)
      .map((at) => ({ at, drawn: randomFrom(world.seed, "beside", name, world.categories[at]!.name)() }))
      .sort((a, b) => a.drawn - b.drawn || a.at - b.at)
      .map(({ at }) => at);
    neighbours.set(category, (found = { beside: near[0] ?? null, around: near.slice(1, 1 + AROUND) }));
  }
  return found;
}

/** Whether what one category holds goes with what people seek in another. */
export function goesWith(world: World, category: number, other: number): boolean {
  return neighboursOf(world, category).beside === other;
}

/** The places beyond their own category that a reach leads the items of a category to. */
export function ringSurfaces(world: World, category: number, reach: ReachName): Surface[] {
  const { beside, around } = neighboursOf(world, category);
  if (reach === "searches-beside") {
    if (beside === null) return [];
    return world.categories[beside]!.surfaces.filter(
      ({ queryClass }) => queryClass !== null && BESIDE_CLASSES.includes(queryClass),
    );
  }
  const isWanted: Partial<Record<ReachName, (surface: Surface) => boolean>> = {
    "searches-around": ({ queryClass }) => queryClass === "broad",
    "pages-around": ({ kind }) => kind === "rival-page",
  };
  const wanted = isWanted[reach];
  return wanted ? around.flatMap((near) => world.categories[near]!.surfaces.filter(wanted)) : [];
}

/** Queries of people who are about to buy what goes with an item. */
const BESIDE_CLASSES: Surface["queryClass"][] = ["broad", "attribute", "long"];
