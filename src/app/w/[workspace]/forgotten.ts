import { FORGOTTEN, STANDING_LABEL, type Standing } from "@/core/account/standing";
import { formatCount } from "@/core/kit/format";
import type { Forgotten } from "@/server/across/catalogue/standings";

const WHY: Partial<Record<Standing, string>> = {
  new: "new",
  back: "back in stock",
  changed: "with other values than the groups are named for",
  never: "never planned in",
};

/** Why items have no home, in words: "5 new, 3 back in stock". */
export function forgottenWords({ byReason }: Forgotten): string {
  return byReason.map(({ standing, items }) => `${formatCount(items)} ${WHY[standing] ?? standing}`).join(", ");
}

/** The query of the item table that shows them. */
export function forgottenFilter({ byReason }: Pick<Forgotten, "byReason">): string {
  const standings = byReason.length > 0 ? byReason.map(({ standing }) => standing) : FORGOTTEN;
  const value = standings.map((standing) => STANDING_LABEL[standing]).join("\n");
  const filter = { match: "all", of: [{ field: "home", op: "one-of", value }] };
  return new URLSearchParams({ filter: JSON.stringify(filter), columns: "id,home,heat,price,cost,revenue" }).toString();
}

/** Where they are planned in: the planogram that the structure was made from, or a new one. */
export function replanPath({ planogram }: Pick<Forgotten, "planogram">): string {
  return `planogram?plan=${planogram ?? "new"}`;
}
