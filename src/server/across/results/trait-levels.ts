import type { Account } from "@/core/account/account";
import { AD_KIND } from "@/core/account/records/campaign";
import { LEVEL_LABEL, TRAIT_LEVELS, type TraitLevel } from "@/core/results/levels";
import type { LevelCodes } from "./level-codes-type";

/** What the account itself says of a key; undefined where only reports could. */
function ofAccount(account: Account, level: TraitLevel, key: string): string | undefined {
  const record = account.get(key);
  if (!record || level === "aim") return undefined;
  if (level === "matchType") return record.type === "keyword" ? record.match : "";
  if (record.type !== "campaign") return undefined;
  return level === "adKind" ? AD_KIND[record.kind] : level === "campaignKind" ? record.kind : undefined;
}

/** What lines are called of which nothing is said. */
const NOT_SAID: Record<TraitLevel, string> = {
  campaignKind: "(kind not said)",
  adKind: "(kind not said)",
  matchType: "(no keyword)",
  aim: "(not told apart)",
  placementKind: "(kind not said)",
};

/**
 * Codes of what campaigns, targets or placements are, as the account has it, else as report files said it.
 * @param told what is told besides of a code of a campaign, target, term or placement, with its key
 */
export function traitLevel(
  level: TraitLevel,
  account: Account,
  texts: Map<number, string>,
  told: (code: number, key: string) => string | undefined,
): LevelCodes {
  const dimension = TRAIT_LEVELS[level];
  const values: string[] = [];
  const numbers = new Map<string, number>();
  const numberOf = (value: string) => {
    let no = numbers.get(value);
    if (no === undefined) numbers.set(value, (no = values.push(value) - 1));
    return no;
  };
  const known = new Map<number, number>();
  const ofCode = (code: number) => {
    let no = known.get(code);
    if (no === undefined) {
      const key = texts.get(code) ?? "";
      no = numberOf(ofAccount(account, level, key) ?? told(code, key) ?? "");
      known.set(code, no);
    }
    return no;
  };
  return {
    label: LEVEL_LABEL[level],
    codeOf: (cube) => {
      const column = cube.dimensions[dimension];
      return column ? (line) => ofCode(column[line]!) : () => -1;
    },
    ofItem: null,
    keyOf: (no) => values[no] ?? "",
    nameOf: (no) => values[no] || NOT_SAID[level],
    codeOfKey: numberOf,
  };
}
