import { formatDay, parseDay } from "@/core/kit/days";
import { ok, type Outcome } from "@/core/kit/outcome";
import { SLOT_KEYS, SLOT_LABEL } from "@/core/kit/slots";
import type { Account } from "@/core/account/account";
import { recordName } from "@/core/account/names";
import type { Cube } from "@/core/results/cube";
import { dimensionOf, isTraitLevel, LEVEL_LABEL, type Level, type TraitLevel } from "@/core/results/levels";
import type { Database } from "@/db/client";
import { loadCodes } from "../../results/load";
import { traitValues } from "../../results/traits";
import { liveAccount } from "../../account/state";
import { aimTeller } from "../../places/aims";
import { itemLevel } from "./item-levels";
import { itemNames, type ItemNames } from "./item-names";
import { traitLevel } from "./trait-levels";
import type { LevelCodes } from "./level-codes-type";

export type { LevelCodes } from "./level-codes-type";

/** The day of a key; −1 for a text that is none. */
function dayOfKey(key: string): number {
  try {
    return parseDay(key);
  } catch {
    return -1;
  }
}

/** Levels that need nothing looked up. */
const PLAIN: Partial<Record<Level, Pick<LevelCodes, "keyOf" | "nameOf" | "codeOfKey">>> = {
  day: { keyOf: formatDay, nameOf: formatDay, codeOfKey: dayOfKey },
  hour: { keyOf: String, nameOf: (hour) => `${String(hour).padStart(2, "0")}:00`, codeOfKey: Number },
  slot: {
    keyOf: (slot) => SLOT_KEYS[slot]!,
    nameOf: (slot) => SLOT_LABEL[SLOT_KEYS[slot]!],
    codeOfKey: (key) => (SLOT_KEYS as readonly string[]).indexOf(key),
  },
};

/** Everything as one line. */
const WORKSPACE: LevelCodes = {
  label: LEVEL_LABEL.workspace,
  codeOf: () => () => 0,
  ofItem: () => 0,
  keyOf: () => "all",
  nameOf: () => "Everything",
  codeOfKey: () => 0,
};

/** Makes the codes of a level. @param set the shelf set for level `shelf` */
export async function levelCodes(db: Database, level: Level, set: string): Promise<Outcome<LevelCodes>> {
  if (level === "workspace") return ok(WORKSPACE);
  if (level === "shelf" || level.startsWith("field:")) return itemLevel(db, level, set);
  const dimension = dimensionOf(level)!;
  const base = {
    label: LEVEL_LABEL[level as keyof typeof LEVEL_LABEL],
    codeOf: (cube: Cube) => {
      const column = cube.dimensions[dimension];
      return column ? (line: number) => column[line]! : () => -1;
    },
    ofItem: null,
  };
  const plain = PLAIN[level];
  if (plain) return ok({ ...base, ...plain });
  if (level === "item") return ok({ ...base, ...namesOfItems(await itemNames(db)) });
  const { texts, byText } = await loadCodes(db);
  const account = await liveAccount(db);
  if (isTraitLevel(level)) return ok(traitLevel(level, account, texts, await toldBesides(db, level)));
  const shown = await traitValues(db, "name");
  return ok({ ...base, ...codedTexts(account, dimension as CodedKind, texts, byText, shown) });
}

/** What reports, or for aims the catalogue and the channel, tell of codes. */
async function toldBesides(db: Database, level: TraitLevel) {
  if (level === "aim") {
    const aimOf = await aimTeller(db);
    return (_: number, key: string) => aimOf(key);
  }
  const told = await traitValues(db, level);
  return (code: number) => told.get(code);
}

function namesOfItems({ of, numberOf }: ItemNames) {
  return {
    ofItem: (no: number) => no,
    keyOf: (no: number) => of.get(no)?.id ?? String(no),
    nameOf: (no: number) => of.get(no)?.title ?? "",
    imageOf: (no: number) => of.get(no)?.image ?? "",
    codeOfKey: (key: string) => numberOf.get(key) ?? -1,
  };
}

type CodedKind = "campaign" | "adGroup" | "target" | "term" | "placement";

/** Levels whose keys are texts that have a code; keys without any result get codes from −2 downwards. */
function codedTexts(
  account: Account,
  kind: CodedKind,
  texts: Map<number, string>,
  byText: Map<string, number>,
  shown: Map<number, string>,
) {
  const made: string[] = [];
  const keyOf = (code: number) => (code < -1 ? (made[-2 - code] ?? "") : (texts.get(code) ?? ""));
  const codeOfKey = (key: string) => byText.get(`${kind}/${key}`) ?? -1;
  return {
    keyOf,
    codeOfKey,
    nameOf: (code: number) => {
      const key = keyOf(code);
      const name = shown.get(code);
      // A campaign goes by the name it has now; a placement by its address, whatever name it shows.
      if (kind === "campaign" && name !== undefined && !account.get(key)) return name;
      return kind === "placement" && name && name !== key ? `${key} (${name})` : nameOfKey(account, key, kind);
    },
    codeFor: (key: string) => {
      const known = codeOfKey(key);
      return known >= 0 ? known : -1 - made.push(key);
    },
  };
}

/** What a key of the account is called; texts that are no keys stand for themselves. */
function nameOfKey(account: Account, text: string, kind: string): string {
  if (text === "") return kind === "term" ? "(no term: partner media)" : "(not named)";
  const record = account.get(text);
  if (record) return recordName(account, record);
  const isKey = (kind === "campaign" || kind === "adGroup" || kind === "target") && /^[cgpt]:/.test(text);
  return isKey ? `${text} (gone)` : text;
}
