import type { Transaction } from "@libsql/client";
import type { Database } from "@/db/client";
import { codes, codeTraits, type TRAITS } from "@/db/schema";
import { BULK_ROWS } from "../bulk";
import { remember } from "../read/memo";
import { resultsVersion } from "./load";

export type Trait = (typeof TRAITS)[number];

/** What a trait is called that a file gives in several ways for one and the same thing. */
export const SEVERAL = "several";

/** Traits that are a thing's own words, and so are kept letter by letter. */
const OWN_WORDS: ReadonlySet<Trait> = new Set(["name", "id"]);

/** Gathers what is said of codes, and stores it. Of names the last counts; of all else, what is said in two ways is "several". */
export class TraitNotes {
  private readonly told = new Map<string, [code: number, trait: Trait, value: string]>();
  private readonly spelt = new Map<string, string>();

  /** @param known what is told already: another spelling of the same kind is not another kind */
  constructor(known: Iterable<{ trait: Trait; value: string }> = []) {
    for (const { trait, value } of known) if (!OWN_WORDS.has(trait)) this.spelling(trait, value);
  }

  private spelling(trait: Trait, value: string): string {
    const key = `${trait}/${value.trim().replace(/\s+/g, " ").toLowerCase()}`;
    const first = this.spelt.get(key) ?? value.trim();
    this.spelt.set(key, first);
    return first;
  }

  note(code: number, trait: Trait, given: string | undefined): void {
    if (given === undefined || given === "") return;
    const value = OWN_WORDS.has(trait) ? given : this.spelling(trait, given);
    const key = `${code}/${trait}`;
    const before = this.told.get(key);
    const isAtOdds = before !== undefined && before[2] !== value && !OWN_WORDS.has(trait);
    this.told.set(key, [code, trait, isAtOdds ? SEVERAL : value]);
  }

  /** Stores what was said, over what was said before. To be called in the transaction that stores the codes. */
  async save(tx: Transaction): Promise<void> {
    const rows = [...this.told.values()];
    for (let from = 0; from < rows.length; from += BULK_ROWS) {
      await tx.execute({
        sql: `INSERT INTO code_traits (code, trait, value)
          SELECT value ->> 0, value ->> 1, value ->> 2 FROM json_each(?) WHERE true
          ON CONFLICT (code, trait) DO UPDATE SET value = excluded.value`,
        args: [JSON.stringify(rows.slice(from, from + BULK_ROWS))],
      });
    }
    this.told.clear();
  }
}

/** Notes that go on with the spellings that are known. */
export async function traitNotes(db: Database): Promise<TraitNotes> {
  return new TraitNotes(await db.select({ trait: codeTraits.trait, value: codeTraits.value }).from(codeTraits));
}

/** The value of a trait by code. */
export async function traitValues(db: Database, trait: Trait): Promise<Map<number, string>> {
  const all = await remember(db, "traits", [await resultsVersion(db)], () => db.select().from(codeTraits));
  return new Map(all.filter((row) => row.trait === trait).map(({ code, value }) => [code, value]));
}

/** Codes of campaigns by the ID that a platform gave them. */
export async function campaignsById(db: Database): Promise<Map<string, number>> {
  const [ids, all] = await Promise.all([traitValues(db, "id"), db.select().from(codes)]);
  const campaigns = new Set(all.filter(({ kind }) => kind === "campaign").map(({ no }) => no));
  return new Map([...ids].filter(([code]) => campaigns.has(code)).map(([code, id]) => [id, code]));
}
