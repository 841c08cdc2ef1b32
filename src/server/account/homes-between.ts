import { canAffect, makeEdit, type Edit } from "@/core/account/acts";
import { budgetChange, changesInWords } from "@/core/account/words";
import { diffSize } from "@/core/kit/diff";
import { ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { itemFacts, walkAccount, type WalkedAccount, type WorthsOf } from "./serving";
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

/** What an edit would change, before it is made. */
export interface EditLook {
  changes: number;
  /** The first changes in words, each from what is set now. */
  words: string[];
  /** Mills a day of all running campaigns. */
  budget: { before: number; after: number };
  /** What becomes of the homes of items; null for what can't move any. */
  homes: HomesBetween | null;
}

/** Changes told in words. */
const MOST_WORDS = 4;

/** What an edit would change, from what is set now, and what it would do to the homes of items. */
export async function lookAtEdit(
  db: Database,
  edit: Edit,
  currency: string,
  worths?: WorthsOf,
): Promise<Outcome<EditLook>> {
  const { planned } = await readAccount(db);
  const edited = makeEdit(planned, edit, await itemFacts(db, planned, edit, worths), currency);
  if (!edited.ok) return edited;
  const diff = edited.value.diff();
  const words = changesInWords(planned, diff, currency);
  const moves = canAffect(edit, "homes") && diffSize(diff) > 0;
  return ok({
    changes: diffSize(diff),
    words: words.slice(0, MOST_WORDS).map(({ text }) => text),
    budget: canAffect(edit, "budgets") ? budgetChange(planned, diff) : { before: 0, after: 0 },
    homes: moves ? homesBetween(await walkAccount(db, planned), await walkAccount(db, planned.with(diff))) : null,
  });
}
