import { edit } from "@/core/account/edits";
import type { Intent } from "@/core/account/intents";
import { ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { itemFacts, walkAccount, type WalkedAccount } from "./serving";
import { readAccount } from "./state";

/** What a change of the account does to the homes of items. */
export interface HomesBetween {
  /** Items that get a first home, that are served first by another group, and that lose the last one. */
  homed: number;
  moved: number;
  homeless: number;
  /** The campaigns that serve the moved and homed ones first from then on, those with the most first. */
  takers: { campaign: string; name: string; items: number }[];
  /** Open remainders before and after. */
  leaks: { before: number; after: number };
}

/** Campaigns named that take items over. */
const MOST_TAKERS = 5;

/** Compares who serves each item first in two walks of one catalogue. */
export function homesBetween(before: WalkedAccount, after: WalkedAccount): HomesBetween {
  let [homed, moved, homeless] = [0, 0, 0];
  const takers = new Map<string, { campaign: string; name: string; items: number }>();
  for (let row = 0; row < before.catalogue.length; row++) {
    const was = before.serving[before.first[row]!];
    const is = after.serving[after.first[row]!];
    if (was?.group.key === is?.group.key) continue;
    if (!is) {
      homeless++;
      continue;
    }
    if (was) moved++;
    else homed++;
    const { key, name } = is.campaign;
    const taker = takers.get(key) ?? { campaign: key, name, items: 0 };
    taker.items++;
    takers.set(key, taker);
  }
  return {
    ...{ homed, moved, homeless },
    takers: [...takers.values()].sort((a, b) => b.items - a.items).slice(0, MOST_TAKERS),
    leaks: { before: before.proof.leaks.length, after: after.proof.leaks.length },
  };
}

/** What an edit would do to the homes of items, before it is made. */
export async function lookAtEdit(db: Database, intent: Intent): Promise<Outcome<HomesBetween>> {
  const { planned } = await readAccount(db);
  const edited = edit(planned, intent, await itemFacts(db, planned));
  if (!edited.ok) return edited;
  const after = planned.with(edited.value.diff());
  return ok(homesBetween(await walkAccount(db, planned), await walkAccount(db, after)));
}
