import { splitColumns, type Account } from "@/core/account/account";
import { firstHomes, isHomeKind, proveHomes, type HomesProof } from "@/core/account/homes";
import type { FactsOf } from "@/core/account/act";
import { afterPauses, asksWorth, type Edit } from "@/core/account/acts";
import type { ClickWorth } from "@/core/goals/click-worth";
import { cellText } from "@/core/kit/columns";
import { Walker, type ServingGroup } from "@/core/account/walk";
import { fieldsOf } from "@/core/account/records/assets";
import { adValues } from "@/core/assets/ad-values";
import { isMoneyColumn } from "@/core/catalogue/finish";
import type { Database } from "@/db/client";
import { listDerived } from "../catalogue/derived";
import { rowsById } from "../catalogue/item-rows";
import { loadCatalogue, type Catalogue } from "../catalogue/load";
import { remember } from "../read/memo";

export interface WalkedAccount {
  catalogue: Catalogue;
  serving: ServingGroup[];
  /** Groups of campaigns that aim at terms or listings: they show their items beside the homes. */
  aimed: ServingGroup[];
  proof: HomesProof;
  /** For each row the place in `serving` of its first home, or −1. */
  first: Int32Array;
}

/** The catalogue with the columns that walking an account's product groups reads; shelves come as labels in the account. */
export async function accountColumns(db: Database, account: Account): Promise<Catalogue> {
  return loadCatalogue(db, [...new Set(["id", "availability", ...splitColumns(account)])]);
}

/** The catalogue as the channel reads it: also the fields that ads are put together from, and how they read there. */
export async function servedColumns(db: Database, { currency }: { currency: string }, account: Account) {
  const inAds = account.all("assets").flatMap(fieldsOf);
  // Where a text campaign has no ad, the channel makes one of the title.
  if (account.all("campaign").some(({ kind }) => kind === "text")) inAds.push("title");
  const catalogue = await loadCatalogue(db, [...new Set(["id", "availability", ...splitColumns(account), ...inAds])]);
  return { catalogue, valueOf: await readInAds(db, currency, catalogue) };
}

/** How the fields of a row read in an ad. */
export async function readInAds(db: Database, currency: string, catalogue: Catalogue) {
  const derived = await listDerived(db);
  return adValues(catalogue, { isMoney: (field) => isMoneyColumn(field, derived), currency });
}

/** The account as sent, with the basket, and a version before: more are hardly asked for at the same time. */
const KEPT = 4;

/** The rows that an ad group's product groups will lead to, which are not made yet. */
export interface ToCome {
  adGroup: string;
  rows: Uint32Array;
}

/**
 * The groups that serve the catalogue in an account, and the proof of homes and leaks. Walked once an account and revision;
 * of a changed account only what changed.
 * @param toCome ad groups whose product groups are not made yet; a walk with them is not kept
 */
export async function walkAccount(db: Database, account: Account, toCome: ToCome[] = []): Promise<WalkedAccount> {
  const catalogue = await accountColumns(db, account);
  const { revision } = catalogue;
  if (toCome.length > 0) return walk(db, account, catalogue, toCome);
  return remember(db, "walked account", [account.id, revision], () => walk(db, account, catalogue, []), KEPT);
}

/** What walks accounts over the catalogue in force. */
export async function walkerOf(db: Database, account: Account): Promise<Walker> {
  const catalogue = await accountColumns(db, account);
  const names = Object.keys(catalogue.columns).sort().join();
  return remember(db, "account walker", [catalogue.revision, names], () => new Walker(catalogue));
}

async function walk(db: Database, account: Account, catalogue: Catalogue, toCome: ToCome[]): Promise<WalkedAccount> {
  const walker = await walkerOf(db, account);
  const all = walker.walk(account);
  for (const { adGroup: key, rows } of toCome) {
    const adGroup = account.find("adGroup", key);
    const campaign = account.find("campaign", adGroup?.campaign ?? null);
    const one = adGroup && campaign && walker.serveRows(account, campaign, adGroup, rows);
    if (one) all.push(one);
  }
  const serving = all.filter(({ campaign }) => isHomeKind(campaign.kind));
  const aimed = all.filter(({ campaign }) => !isHomeKind(campaign.kind));
  return {
    catalogue,
    serving,
    aimed,
    proof: proveHomes(serving, catalogue.length),
    first: firstHomes(serving, catalogue.length),
  };
}

/** Tells what a click on a catalogue row is worth, towards a campaign's own goal where it has one. Rooms that know results make it. */
export type WorthsOf = (db: Database) => Promise<(row: number, campaignGoal: number | null) => ClickWorth | null>;

/**
 * What an edit asks about items, by their ID: the group that serves them first once what it pauses is paused, their family, and if it asks what a click is
 * worth.
 * @param worths asked where the edit needs it; left out, nothing is known of that
 */
export async function itemFacts(db: Database, account: Account, edit: Edit, worths?: WorthsOf): Promise<FactsOf> {
  const { serving, first } = await walkAccount(db, afterPauses(account, edit));
  const rows = await rowsById(db);
  const { family, title } = (await loadCatalogue(db, ["family", "title"])).columns;
  const worthOf = worths && asksWorth(edit) ? await worths(db) : null;
  return (item) => {
    const row = rows.get(item);
    if (row === undefined) return null;
    const home = serving[first[row] ?? -1];
    return {
      home: home ? { group: home.group.key, bid: home.bid } : null,
      family: family ? cellText(family, row) : "",
      title: title ? cellText(title, row) : "",
      ...(worthOf ? { worth: worthOf(row, home?.campaign.goal ?? null) } : {}),
    };
  };
}
