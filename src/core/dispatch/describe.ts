import type { Diff } from "../kit/diff";
import { plural } from "../kit/format";
import { formatMoney } from "../kit/money";
import { RECORD_LABEL, type RecordType, type Structure, type StructureRecord } from "../planogram/structure";

/** One change in words, with the money it moves where it does. */
export interface ChangeWords {
  key: string;
  type: RecordType;
  /** What changes, for example `Campaign "Hoses": daily budget €12.00 → €15.00`. */
  text: string;
}

/** How a record is called with where it stands, for example `Seeds · Thornlea`. */
export function recordName(structure: Structure, record: StructureRecord): string {
  switch (record.type) {
    case "campaign":
      return record.name;
    case "adGroup": {
      const campaign = structure[record.campaign];
      const parent = campaign?.type === "campaign" ? campaign.name : "";
      return parent === record.name || parent === "" ? record.name : `${parent} · ${record.name}`;
    }
    case "productGroup": {
      const adGroup = structure[record.adGroup];
      const place = adGroup ? recordName(structure, adGroup) : "";
      const value =
        record.value === null ? (record.parent === null ? "all items" : record.role) : record.value || "(no value)";
      return `${place} · ${value}`;
    }
    case "exclusion":
      return record.item;
    case "labels":
      return `${record.shelf} of ${record.shelfSet}`;
    case "keyword":
      return `${record.text} (${record.match})`;
    case "listingTarget":
      return record.aim.by === "listing" ? record.aim.listing : `listings of ${record.aim.category}`;
    case "reach":
      return record.kind.replace("-", " ");
    case "negative":
      return record.value;
    case "pool":
      return record.name;
    case "dayCap":
      return "whole workspace";
  }
}

/** Nodes that only hold a tree together: splits, and remainders that are closed. They go without saying. */
function isScaffold(record: StructureRecord): boolean {
  return (
    record.type === "productGroup" &&
    (record.role === "split" || (record.role === "remainder" && record.status === "closed"))
  );
}

/** Every change of a diff that a person should read, in words, campaigns first. */
export function changesInWords(live: Structure, diff: Diff<StructureRecord>, currency: string): ChangeWords[] {
  const known: Structure = { ...live, ...diff.added };
  const words: ChangeWords[] = [];
  const put = (record: StructureRecord, text: string) => words.push({ key: record.key, type: record.type, text });
  for (const record of Object.values(diff.added)) {
    if (isScaffold(record)) continue;
    const [one] = RECORD_LABEL[record.type];
    const name = recordName(known, record);
    if (record.type === "campaign") {
      put(record, `New campaign "${name}" with ${formatMoney(record.dailyBudget, currency)} a day`);
    } else if (record.type === "exclusion") {
      const scope = record.campaign === null ? "everywhere" : `in ${campaignName(known, record.campaign)}`;
      put(record, `Item ${name} excluded ${scope}: ${record.reason}`);
    } else if (record.type === "labels") {
      put(record, `Label sent: ${plural(record.items.length, "item")} on ${name}`);
    } else if (record.type === "productGroup" && record.bid !== null) {
      put(record, `New product group "${name}" at ${formatMoney(record.bid, currency)} a click`);
    } else put(record, `New ${one} "${name}"`);
  }
  for (const [from, to] of Object.values(diff.changed)) put(to, describeChange(known, from, to, currency));
  for (const record of Object.values(diff.removed)) {
    if (isScaffold(record)) continue;
    const [one] = RECORD_LABEL[record.type];
    const name = recordName(known, record);
    put(record, record.type === "exclusion" ? `Item ${name} no longer excluded` : `${capital(one)} "${name}" removed`);
  }
  const order: RecordType[] = [
    "campaign",
    "pool",
    "dayCap",
    "adGroup",
    "exclusion",
    "negative",
    "keyword",
    "listingTarget",
    "reach",
  ];
  const place = (type: RecordType) => (order.includes(type) ? order.indexOf(type) : order.length);
  return words.sort((a, b) => place(a.type) - place(b.type));
}

function campaignName(structure: Structure, key: string): string {
  const record = structure[key];
  return record?.type === "campaign" ? record.name : key;
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

function describeChange(known: Structure, from: StructureRecord, to: StructureRecord, currency: string): string {
  const [one] = RECORD_LABEL[to.type];
  const head = `${capital(one)} "${recordName(known, to)}"`;
  const money = (value: unknown) => (typeof value === "number" ? formatMoney(value, currency) : "the group's bid");
  const parts: string[] = [];
  for (const field of new Set([...Object.keys(from), ...Object.keys(to)])) {
    const before: unknown = from[field as keyof StructureRecord];
    const after: unknown = to[field as keyof StructureRecord];
    if (JSON.stringify(before) === JSON.stringify(after)) continue;
    if (field === "dailyBudget") parts.push(`daily budget ${money(before)} → ${money(after)}`);
    else if (field === "bid") parts.push(`bid ${money(before)} → ${money(after)}`);
    else if (field === "status") parts.push(after === "on" ? "switched on" : after === "paused" ? "paused" : "closed");
    else if (field === "items" && from.type === "labels" && to.type === "labels")
      parts.push(itemsMoved(from.items, to.items));
    else if (field === "role" && after === "split") parts.push("split to lift items out");
    else if (field === "by" && to.type === "productGroup" && to.role === "split") continue;
    else parts.push(`${field} ${inWords(before)} → ${inWords(after)}`);
  }
  return `${head}: ${parts.join(", ")}`;
}

function inWords(value: unknown): string {
  return value === null || value === undefined
    ? "none"
    : typeof value === "object"
      ? JSON.stringify(value)
      : `${value as string}`;
}

function itemsMoved(from: number[], to: number[]): string {
  const before = new Set(from);
  const after = new Set(to);
  const came = to.filter((item) => !before.has(item)).length;
  const left = from.filter((item) => !after.has(item)).length;
  return `${plural(came, "item")} came, ${left} left`;
}

/** A diff in a few sentences: counts by kind of change, and the money a day that it moves. */
export function describeDiff(live: Structure, diff: Diff<StructureRecord>, currency: string): string[] {
  const sentences: string[] = [];
  const kinds: [verb: string, records: StructureRecord[]][] = [
    ["new", Object.values(diff.added).filter((record) => !isScaffold(record))],
    ["changed", Object.values(diff.changed).map(([, to]) => to)],
    ["removed", Object.values(diff.removed).filter((record) => !isScaffold(record))],
  ];
  for (const type of Object.keys(RECORD_LABEL) as RecordType[]) {
    const [one, many] = RECORD_LABEL[type];
    const parts = kinds.flatMap(([verb, list]) => {
      const count = list.filter((record) => record.type === type).length;
      return count > 0 ? [`${plural(count, one, many)} ${verb}`] : [];
    });
    if (parts.length > 0) sentences.push(`${parts.join(", ")}.`);
  }
  const { before, after } = budgetChange(live, diff);
  if (before !== after) {
    sentences.push(`Daily budgets in all: ${formatMoney(before, currency)} → ${formatMoney(after, currency)}.`);
  }
  return sentences;
}

/** Mills a day of all running campaigns, before and after a diff. */
export function budgetChange(live: Structure, diff: Diff<StructureRecord>): { before: number; after: number } {
  const budget = (record: StructureRecord | undefined) =>
    record?.type === "campaign" && record.status === "on" ? record.dailyBudget : 0;
  let before = 0;
  for (const record of Object.values(live)) before += budget(record);
  let after = before;
  for (const record of Object.values(diff.added)) after += budget(record);
  for (const [from, to] of Object.values(diff.changed)) after += budget(to) - budget(from);
  for (const record of Object.values(diff.removed)) after -= budget(record);
  return { before, after };
}
