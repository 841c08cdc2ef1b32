import { makeEdit, type Edit } from "@/core/account/acts";
import { checkDiff, type Check } from "@/core/account/checks";
import { composeDiffs, diffSize, type Diff } from "@/core/kit/diff";
import type { AccountRecord } from "@/core/account/records";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { worthsOf } from "@/core/bids/worths";
import { editOfMoves } from "@/core/moves/accept";
import { PROPOSERS, type ProposerKey } from "@/core/proposers/proposers";
import type { Database } from "@/db/client";
import { moveBatches, movesAccepted } from "@/db/schema";
import { bulkInsert } from "../bulk";
import { commit } from "../account/commit";
import { itemFacts } from "../account/serving";
import { loadCatalogue } from "../catalogue/load";
import { carriedBy } from "../channel/carried";
import type { WorkspaceInfo } from "../workspaces";
import { ALL_CHANGED, chooseMoves, type ChosenMoves, type WhichMoves } from "./moves";

/** What accepting moves did. */
export interface Accepted {
  moves: number;
  changes: number;
  /** Keys of moves that were worked out anew since they were seen, and were left. */
  changed: string[];
  checks: Check[];
  /** Those of them that did not hold before. */
  newChecks: Check[];
  version: number;
  diff: Diff<AccountRecord>;
}

/**
 * Puts moves into the basket, by the acts that people use and through the one writer. What was worked out anew since it was
 * seen is left and told. They are kept with what is expected of them, for what comes.
 */
export async function acceptMoves(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  stamp: number | null,
  which: WhichMoves,
): Promise<Outcome<Accepted>> {
  const chosen = await chooseMoves(db, info, which);
  return chosen.ok ? acceptChosen(db, info, who, stamp, chosen.value) : chosen;
}

/** Puts moves that were chosen on what is there now into the basket. */
export async function acceptChosen(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  stamp: number | null,
  { all, moves, changed }: ChosenMoves,
): Promise<Outcome<Accepted>> {
  const edit = editOfMoves(moves);
  if (!edit) return fail("moves-changed", ALL_CHANGED, "Look at them as they are now.");
  const { columns } = await loadCatalogue(db, []);
  const numbers = columns["itemNo"]?.kind === "number" ? columns["itemNo"].values : new Float64Array(0);
  const { limits } = await carriedBy(db);
  const { counted } = worthsOf(all.ground);
  const [batch] = await db.insert(moveBatches).values({ who, at: Date.now(), day: all.window.to }).returning();
  return commit(db, who, stamp, async ({ planned, live, held, version }) => {
    const made = makeEdit(planned, edit as Edit, await itemFacts(db, planned, edit as Edit), info.currency);
    if (!made.ok) return made;
    const draft = made.value;
    const diff = draft.diff();
    const kinds = [...new Set(moves.map(({ proposer }) => PROPOSERS[proposer as ProposerKey].name.toLowerCase()))];
    const told = {
      what: `Accepted ${plural(moves.length, "move")}: ${kinds.join(", ")}`,
      place: "moves",
      about: `moves/${batch!.id}`,
    };
    const checks = checkDiff(live, composeDiffs(held, diff), info.currency, limits);
    const before = new Set(checkDiff(live, held, info.currency, limits).map(({ message }) => message));
    return ok({
      into: { draft, cause: { kind: "move" as const, id: String(batch!.id) }, reason: moves[0]!.why.slice(0, 300) },
      told,
      also: (tx) =>
        bulkInsert(
          tx,
          movesAccepted,
          ["batch", "key", "proposer", "about", "what", "why", "items", "expected"],
          moves.map((move) => [
            ...[batch!.id, move.key, move.proposer, move.about, move.what, move.why],
            JSON.stringify(move.rows.map((row) => numbers[row]!)),
            JSON.stringify({ ...move.expected, counted }),
          ]),
        ),
      value: {
        ...{ moves: moves.length, changes: diffSize(diff), changed, version: version + 1, diff },
        checks,
        newChecks: checks.filter(({ message }) => !before.has(message)),
      },
    });
  });
}
