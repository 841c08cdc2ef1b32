import { touchedBy, type Diff } from "../kit/diff";
import { plural } from "../kit/format";
import { formatMoney } from "../kit/money";
import type { Account } from "./account";
import { knownIn } from "./names";
import { splitName } from "./split-name";
import type { Telling } from "./record-kind";
import { changedFields, fieldOf, kindOf, RECORD_TYPES, type AccountRecord, type RecordType } from "./records";

/** One change in words, with the money it moves where it does. */
export interface ChangeWords {
  key: string;
  type: RecordType;
  /** What changes, for example `Campaign "Hoses": daily budget €12.00 → €15.00`. */
  text: string;
  /** Its place in the list, 0 for what stops something. */
  weight: number;
}

function isScaffold(record: AccountRecord): boolean {
  return kindOf(record.type).isScaffold?.(record) ?? false;
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/**
 * Every change of a diff that a person should read, in words: what stops something first, then money, then all else.
 * @param which `scaffold` tells those instead that only hold others together
 */
export function changesInWords(
  live: Account,
  diff: Diff<AccountRecord>,
  currency: string,
  which: "readable" | "scaffold" = "readable",
): ChangeWords[] {
  const isLeftOut = (record: AccountRecord) => isScaffold(record) !== (which === "scaffold");
  // Names are those after the change, and of what goes those it had.
  const { added, changed, removed } = touchedBy(diff);
  const goes = removed.length > 0;
  const known = knownIn(live.with(goes ? { ...diff, removed: {} } : diff));
  const telling = (record: AccountRecord): Telling => ({
    ...known,
    name: kindOf(record.type).name(record, known),
    money: (mills) => formatMoney(mills, currency),
  });
  const words: ChangeWords[] = [];
  const put = (record: AccountRecord, text: string, weight: number) =>
    words.push({ key: record.key, type: record.type, text, weight });
  for (const record of added) {
    if (isLeftOut(record)) continue;
    const kind = kindOf(record.type);
    const told = telling(record);
    put(
      record,
      which === "scaffold"
        ? scaffoldWords(record, told.name)
        : (kind.added?.(record, told) ?? `New ${kind.label[0]} "${told.name}"`),
      weightOf(null, record),
    );
  }
  for (const [from, to] of changed) {
    const parts = fieldsInWords(from, to, telling(to));
    const name = kindOf(to.type).name(to, known);
    if (parts.length > 0 === (which === "readable"))
      put(
        to,
        `${capital(kindOf(to.type).label[0])} "${name}": ${parts.join(", ") || "nothing that can be seen"}`,
        weightOf(from, to),
      );
  }
  for (const record of removed) {
    if (isLeftOut(record)) continue;
    const kind = kindOf(record.type);
    const told = telling(record);
    const text = kind.removed?.(record, told) ?? `${capital(kind.label[0])} "${told.name}" removed`;
    put(record, text, weightOf(record, null));
  }
  return words.sort((a, b) => a.weight - b.weight || kindOf(a.type).place - kindOf(b.type).place);
}

/** Its place before others in the list: what stops something, then money, then who is served, then what only reads otherwise. */
function weightOf(from: AccountRecord | null, to: AccountRecord | null): number {
  const isOn = (record: AccountRecord) => !("status" in record) || record.status === "on";
  if (to === null) return 0;
  if (from === null) return to.type === "exclusion" || to.type === "negative" || !isOn(to) ? 0 : 1;
  if (isOn(from) && !isOn(to)) return 0;
  const decides = new Set(changedFields(from, to).map((field) => fieldOf(to.type, field)?.decides));
  return decides.has("spending") ? 1 : decides.has("serving") ? 2 : 3;
}

/** What a record that only holds others together does. */
function scaffoldWords(record: AccountRecord, name: string): string {
  if (record.type !== "productGroup") return `${capital(kindOf(record.type).label[0])} "${name}"`;
  if (record.role === "split") return `Divides "${name}" by ${splitName(record.by ?? "")}`;
  return record.role === "rest" ? `Keeps what stays of "${name}"` : `Closes what is not named in "${name}"`;
}

/** Words that changed fields of several kinds share. */
const FIELD_WORDS: Record<string, (before: unknown, after: unknown) => string | null> = {
  status: (_, after) => (after === "on" ? "switched on" : "paused"),
  pausedFor: (_, after) => (after ? `because: ${after as string}` : null),
  reviewOn: (before, after) => `to look at again ${inWords(before)} → ${inWords(after)}`,
};

function amount(value: unknown, money: Telling["money"]): string {
  return typeof value === "number" ? money(value) : "the group's bid";
}

function fieldsInWords(from: AccountRecord, to: AccountRecord, telling: Telling): string[] {
  const own = kindOf(to.type).changed as
    Record<string, ((before: unknown, after: unknown, telling: Telling) => string | null) | undefined> | undefined;
  return changedFields(from, to).flatMap((name) => {
    const before: unknown = from[name as keyof AccountRecord];
    const after: unknown = to[name as keyof AccountRecord];
    const say = own?.[name] ?? FIELD_WORDS[name];
    if (say) return say(before, after, telling) ?? [];
    const field = fieldOf(to.type, name);
    const value = (of: unknown) => (field?.money ? amount(of, telling.money) : inWords(of));
    return `${field?.label ?? name} ${value(before)} → ${value(after)}`;
  });
}

function inWords(value: unknown): string {
  if (value === null || value === undefined) return "none";
  return typeof value === "object" ? JSON.stringify(value) : `${value as string}`;
}

/** A diff in a few sentences: counts by kind of change, and the money a day that it moves. */
export function describeDiff(live: Account, diff: Diff<AccountRecord>, currency: string): string[] {
  const sentences: string[] = [];
  const counts = new Map<string, number>();
  const count = (verb: string, record: AccountRecord) => {
    const key = `${verb}/${record.type}`;
    counts.set(key, (counts.get(key) ?? 0) + 1);
  };
  const { added, changed, removed } = touchedBy(diff);
  for (const record of added) if (!isScaffold(record)) count("new", record);
  for (const [, to] of changed) count("changed", to);
  for (const record of removed) if (!isScaffold(record)) count("removed", record);
  for (const type of RECORD_TYPES) {
    const [one, many] = kindOf(type).label;
    const parts = ["new", "changed", "removed"].flatMap((verb) => {
      const found = counts.get(`${verb}/${type}`) ?? 0;
      return found > 0 ? [`${plural(found, one, many)} ${verb}`] : [];
    });
    if (parts.length > 0) sentences.push(`${parts.join(", ")}.`);
  }
  const { before, after } = budgetChange(live, diff);
  if (before !== after) {
    sentences.push(`Daily budgets in all: ${formatMoney(before, currency)} → ${formatMoney(after, currency)}.`);
  }
  return sentences;
}

/** Mills a day of all running campaigns, and of the day cap where that is less, before and after a diff. */
export function budgetChange(live: Account, diff: Diff<AccountRecord>): { before: number; after: number } {
  const budget = (account: Account) => {
    const running = account.all("campaign").filter(({ status }) => status === "on");
    const sum = running.reduce((all, { dailyBudget }) => all + dailyBudget, 0);
    return Math.min(sum, account.all("dayCap")[0]?.dailyBudget ?? Infinity);
  };
  return { before: budget(live), after: budget(live.with(diff)) };
}
