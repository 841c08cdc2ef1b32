import { foldId } from "@/core/catalogue/findings/find";
import { cellText } from "@/core/kit/columns";
import { readMatch } from "@/core/results/reports/read-match";
import type { ReportLine } from "@/core/results/reports/read-report";
import type { ReportMapping } from "@/core/results/reports/report-kinds";
import { UNMATCHED_FROM } from "@/core/results/reports/unmatched";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../../catalogue/load";
import { liveAccount } from "../../account/state";
import type { Coder } from "../coder";
import { codeTexts } from "../load";
import { campaignsById, traitNotes, type TraitNotes } from "../traits";

/** Item numbers by ID, however a spreadsheet spells it; a folded ID that stands for several items matches none. */
async function itemIndex(db: Database): Promise<(id: string) => number | null> {
  const { columns, length } = await loadCatalogue(db, ["id"]);
  const numbers = columns["itemNo"];
  const exact = new Map<string, number>();
  const folded = new Map<string, number | null>();
  for (let row = 0; row < length; row++) {
    const id = cellText(columns["id"]!, row);
    const no = numbers?.kind === "number" ? numbers.values[row]! : 0;
    exact.set(id, no);
    const key = foldId(id);
    folded.set(key, folded.has(key) ? null : no);
  }
  return (id) => exact.get(id) ?? folded.get(foldId(id)) ?? null;
}

/** The keys of the account by the names that reports give, folded. */
interface AccountNames {
  campaigns: Map<string, string>;
  /** By the campaign's key and the name. */
  adGroups: Map<string, string>;
  /** By the ad group's key, text and match type. */
  keywords: Map<string, string>;
}

/** Finds what the names in a report stand for in the account and the catalogue, and gives each its code. */
export class ReportNames {
  readonly unmatched = new Set<string>();
  private constructor(
    private readonly coder: Coder,
    private readonly itemOf: (id: string) => number | null,
    private readonly account: AccountNames,
    /** Campaigns by the platform's ID, the ID of each, and the texts of those known from files. */
    private readonly byId: Map<string, number>,
    private readonly idOf: Map<number, string>,
    private readonly texts: Map<number, string>,
    private readonly renamed: Map<string, string>,
    /** What the report says of campaigns, targets and placements, to be stored with the codes. */
    readonly traits: TraitNotes,
  ) {}

  static async load(db: Database, coder: Coder, renamed: ReportMapping["renamed"]): Promise<ReportNames> {
    const live = await liveAccount(db);
    const account: AccountNames = { campaigns: new Map(), adGroups: new Map(), keywords: new Map() };
    for (const { key, name } of live.all("campaign")) account.campaigns.set(fold(name), key).set(fold(key), key);
    for (const { key, name, campaign } of live.all("adGroup")) {
      account.adGroups.set(`${campaign}/${fold(name)}`, key).set(`${campaign}/${fold(key)}`, key);
    }
    for (const { key, adGroup, text, match } of live.all("keyword")) {
      account.keywords.set(`${adGroup}/${match}/${fold(text)}`, key);
    }
    const byId = await campaignsById(db);
    const idOf = new Map([...byId].map(([id, code]) => [code, id]));
    const now = new Map(Object.entries(renamed).map(([name, key]) => [fold(name), key]));
    const [items, texts] = [await itemIndex(db), await codeTexts(db, "campaign")];
    return new ReportNames(coder, items, account, byId, idOf, texts, now, await traitNotes(db));
  }

  /**
   * The campaign of a row: the one with its ID whatever it is called by now, else the one it is said to be the new name
   * of, else the account's of that name, else the name itself.
   */
  campaign({ dimensions, traits }: ReportLine): { key: string; code: number } {
    const name = dimensions.campaign;
    const id = traits.campaignId ?? "";
    const code = this.campaignOf(name, id);
    if (id !== "") {
      this.byId.set(id, code);
      this.idOf.set(code, id);
      this.traits.note(code, "id", id);
    }
    this.traits.note(code, "name", name);
    this.traits.note(code, "campaignKind", traits.campaignKind);
    this.traits.note(code, "adKind", traits.adKind);
    return { key: this.texts.get(code)!, code };
  }

  private campaignOf(name: string, id: string): number {
    const withId = id === "" ? undefined : this.byId.get(id);
    if (withId !== undefined) return withId;
    const key =
      this.account.campaigns.get(fold(id)) ??
      this.renamed.get(fold(name)) ??
      this.account.campaigns.get(fold(name)) ??
      name;
    const code = this.coded(key);
    const other = this.idOf.get(code);
    // Two campaigns can bear one name; their IDs tell them apart.
    return id !== "" && other !== undefined && other !== id ? this.coded(`${name} (${id})`) : code;
  }

  private coded(key: string): number {
    const code = this.coder.code("campaign", key);
    this.texts.set(code, key);
    return code;
  }

  adGroup(campaign: string, name: string): { key: string; code: number } {
    const key = this.account.adGroups.get(`${campaign}/${fold(name)}`) ?? name;
    return { key, code: this.coder.code("adGroup", key) };
  }

  /** A keyword is told apart by its match type, where the report says it. */
  target(adGroup: string, { dimensions, traits }: ReportLine): number {
    const text = dimensions.target;
    const match = traits.matchType === undefined ? "" : readMatch(traits.matchType);
    if (match === "" || text === "") return this.coder.code("target", text);
    const key = this.account.keywords.get(`${adGroup}/${match}/${fold(text)}`) ?? `${text} (${match})`;
    const code = this.coder.code("target", key);
    this.traits.note(code, "matchType", match);
    this.traits.note(code, "name", text);
    return code;
  }

  term(text: string): number {
    return this.coder.code("term", text);
  }

  placement({ dimensions, traits }: ReportLine): number {
    const code = this.coder.code("placement", dimensions.placement);
    this.traits.note(code, "name", traits.placementName);
    this.traits.note(code, "placementKind", traits.placementKind);
    return code;
  }

  /** The item's number; one that the catalogue does not have keeps its ID under a number of its own. */
  item(id: string): number {
    const no = this.itemOf(id);
    if (no !== null) return no;
    this.unmatched.add(id);
    return UNMATCHED_FROM + this.coder.code("item", id);
  }
}

/** A name as names are compared: without case and without blanks around or doubled. */
export function fold(name: string): string {
  return name.trim().replace(/\s+/g, " ").toLowerCase();
}
