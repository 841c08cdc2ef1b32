import { eq } from "drizzle-orm";
import { z } from "zod";
import {
  HOUSE_RULES,
  PRESET_RULES,
  RULE_KEYS,
  ruleSchema,
  type HouseRules,
  type RuleKey,
} from "@/core/moves/house-rules";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { changeLog, houseRules } from "@/db/schema";

/** A house rule as it stands: its number, and who set it when; null where nobody did. */
export interface RuleInForce {
  key: RuleKey;
  value: number;
  set: { who: string; at: number } | null;
}

async function rowsOf(db: Database) {
  const rows = await db.select().from(houseRules);
  return new Map(rows.map((row) => [row.key, row]));
}

/** Every house rule with the number in force. */
export async function listRules(db: Database): Promise<RuleInForce[]> {
  const rows = await rowsOf(db);
  return RULE_KEYS.map((key) => {
    const row = rows.get(key);
    return { key, value: row?.value ?? PRESET_RULES[key], set: row ? { who: row.who, at: row.at } : null };
  });
}

/** The numbers in force. */
export async function rulesInForce(db: Database): Promise<HouseRules> {
  return Object.fromEntries((await listRules(db)).map(({ key, value }) => [key, value])) as HouseRules;
}

export const ruleValueSchema = z.object({
  /** Null goes back to the preset. */
  value: z.number().nullable(),
});

/** Sets a house rule, or goes back to its preset. */
export async function setRule(
  db: Database,
  who: string,
  name: string,
  value: number | null,
): Promise<Outcome<RuleInForce>> {
  const key = RULE_KEYS.find((one) => one === name);
  if (!key) return fail("rule-unknown", `There is no house rule called “${name}”.`);
  const before = (await rulesInForce(db))[key];
  const next = value ?? PRESET_RULES[key];
  const checked = ruleSchema(key).safeParse(next);
  if (!checked.success) {
    const { label, least, most } = HOUSE_RULES[key];
    return fail(
      "rule-out-of-range",
      `${label}: from ${least} to ${most}. It stays at ${before}.`,
      checked.error.issues[0]?.message ?? "",
    );
  }
  const at = Date.now();
  await db.transaction(async (tx) => {
    if (value === null) await tx.delete(houseRules).where(eq(houseRules.key, key));
    else {
      const row = { value, who, at };
      await tx
        .insert(houseRules)
        .values({ key, ...row })
        .onConflictDoUpdate({ target: houseRules.key, set: row });
    }
    const what = `House rule “${HOUSE_RULES[key].label}”: ${before} → ${next}`;
    await tx
      .insert(changeLog)
      .values({ at, who, what, why: value === null ? "back to the preset" : "", place: "house rules" });
  });
  return ok({ key, value: next, set: value === null ? null : { who, at } });
}
