import { giveUp } from "@/core/kit/outcome";
import { people, tokens } from "@/db/accounts/schema";
import type { AccountsDatabase } from "@/db/client";
import { NOBODY, ownerOfMachine } from "../person";

/** Marks in a name that say more than a name may: whose address follows, or that a script asks. */
const RESERVED = /[<>]|\(\s*script\b/i;

/** A name as it is compared: letters that look the same or are not seen make no other name. */
function alike(name: string): string {
  return name
    .normalize("NFKC")
    .replace(/\p{Cf}|\p{Mn}/gu, "")
    .replace(/\s+/g, " ")
    .trim()
    .toLowerCase();
}

type Reading = Pick<AccountsDatabase, "select">;

/**
 * Makes sure that a name is nobody else's: no person's, no script's, none of the server's own.
 * @param but the person or token whose own it may be
 * @throws FailureError that says what is wrong with it
 */
export async function checkName(db: Reading, name: string, but = ""): Promise<void> {
  const wanted = alike(name);

  if (wanted === "" || RESERVED.test(name) || /[\x00-\x1f\x7f]/.test(name)) {
    giveUp("input-name", "A name has letters in it, no < or >, and does not say that it is a script.");
  }
  const known = await db.select({ id: people.id, name: people.name }).from(people);
  const scripts = await db.select({ id: tokens.id, name: tokens.name }).from(tokens);
  const own = [NOBODY, ownerOfMachine()].map((taken) => ({ id: "", name: taken }));
  if (
    [...known, ...scripts].some((one) => one.id !== but && alike(one.name) === wanted) ||
    own.some((one) => alike(one.name) === wanted)
  ) {
    giveUp(
      "name-taken",
      `"${name}" is the name of somebody or of a script here.`,
      "Add something, such as a second name.",
    );
  }
}
