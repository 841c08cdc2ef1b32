import { and, eq, inArray } from "drizzle-orm";
import { columnLabel, EXTRA_PREFIX } from "@/core/catalogue/catalogue-columns";
import { categoryLevels } from "@/core/kit/categories";
import type { FieldKey } from "@/core/catalogue/fields";
import { asText } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { items, refreshChanges } from "@/db/schema";
import { liveAccount } from "../../account/state";
import { versionReader } from "../../catalogue/history";
import { loadCatalogue } from "../../catalogue/load";
import type { WorkspaceInfo } from "../../workspaces";

/** A value that the feed calls by another name since a reading. */
export interface RenamedValue {
  by: string;
  label: string;
  from: string;
  to: string;
  /** Items that had the old value and have the new one, and groups that are named for the old one. */
  items: number;
  groups: number;
}

/** Changed items looked at: a rename shows in far fewer. */
const MOST_ITEMS = 20_000;
const AT_ONCE = 1000;
/** Share of a value's items that must have gone the same way. */
const TOGETHER = 0.8;

type Version = NonNullable<ReturnType<Awaited<ReturnType<typeof versionReader>>>>;

/** An item's value of a field that groups can be split by; derived fields are not worked out anew here. */
function valueOf({ item, byName, mapping }: Version, by: string): string {
  if (by.startsWith(EXTRA_PREFIX)) return byName.get(by.slice(EXTRA_PREFIX.length)) ?? "";
  const level = /^category(\d)$/.exec(by)?.[1];
  if (level) return categoryLevels(item?.category ?? "", mapping.categorySeparator)[Number(level) - 1] ?? "";
  return String(item?.[by as FieldKey] ?? "");
}

/**
 * Values that the structure is split by and that a reading renamed: gone from the catalogue, and nearly all of its items
 * have one and the same other value now.
 */
export async function renamedValues(db: Database, info: WorkspaceInfo, revision: number): Promise<RenamedValue[]> {
  const account = await liveAccount(db);
  const groups = new Map<string, number>();
  const splits = new Set<string>();
  for (const { parent, value } of account.all("productGroup")) {
    const split = parent === null ? undefined : account.find("productGroup", parent);
    if (!split?.by || split.by === "id" || value === null) continue;
    splits.add(split.by);
    groups.set(`${split.by}/${value}`, (groups.get(`${split.by}/${value}`) ?? 0) + 1);
  }
  if (splits.size === 0) return [];
  const moves = await movesOf(db, info, revision, [...splits]);
  const { columns } = await loadCatalogue(db, [...splits]);
  const renamed: RenamedValue[] = [];
  for (const [by, froms] of moves) {
    const column = columns[by];
    const left = new Set(column ? presentValues(asText(column)) : []);
    for (const [from, tos] of froms) {
      const named = groups.get(`${by}/${from}`) ?? 0;
      if (from === "" || named === 0 || left.has(from)) continue;
      const all = [...tos.values()].reduce((sum, count) => sum + count, 0);
      const [to, count] = [...tos].sort((a, b) => b[1] - a[1])[0]!;
      if (to !== "" && count >= TOGETHER * all) {
        renamed.push({ by, label: columnLabel(by), from, to, items: count, groups: named });
      }
    }
  }
  return renamed.sort((a, b) => b.items - a.items);
}

/** The values that some item has. */
function presentValues({ codes, values }: { codes: Uint32Array; values: string[] }): string[] {
  const present = new Uint8Array(values.length);
  for (const code of codes) present[code] = 1;
  return values.filter((_, code) => present[code] === 1);
}

/** How many changed items went from which value to which, by field. */
async function movesOf(db: Database, info: WorkspaceInfo, revision: number, splits: string[]) {
  const changed = await db
    .select({ itemNo: refreshChanges.itemNo })
    .from(refreshChanges)
    .where(and(eq(refreshChanges.revision, revision), eq(refreshChanges.kind, "changed")))
    .limit(MOST_ITEMS);
  const read = await versionReader(db, info.currency);
  const moves = new Map<string, Map<string, Map<string, number>>>();
  for (let from = 0; from < changed.length; from += AT_ONCE) {
    const numbers = changed.slice(from, from + AT_ONCE).map(({ itemNo }) => itemNo);
    const versions = await db.select().from(items).where(inArray(items.itemNo, numbers));
    const before = new Map(versions.filter(({ toRev }) => toRev === revision).map((one) => [one.itemNo, one]));
    for (const after of versions.filter(({ fromRev }) => fromRev === revision)) {
      const was = before.get(after.itemNo);
      const [old, now] = [was ? read(was) : null, read(after)];
      if (!old || !now) continue;
      for (const by of splits) {
        const [value, next] = [valueOf(old, by), valueOf(now, by)];
        if (value === next) continue;
        const froms = moves.get(by) ?? new Map<string, Map<string, number>>();
        const tos = froms.get(value) ?? new Map<string, number>();
        tos.set(next, (tos.get(next) ?? 0) + 1);
        moves.set(by, froms.set(value, tos));
      }
    }
  }
  return moves;
}
