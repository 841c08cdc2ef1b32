import { foldId } from "@/core/catalogue/findings/find";
import { cellText } from "@/core/kit/columns";
import { UNMATCHED_FROM } from "@/core/results/reports/unmatched";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../../catalogue/load";
import { liveAccount } from "../../account/state";
import type { Coder } from "../coder";

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

/** Finds what the names in a report stand for in the account and the catalogue, and gives each its code. */
export class ReportNames {
  readonly unmatched = new Set<string>();

  private constructor(
    private readonly coder: Coder,
    private readonly itemOf: (id: string) => number | null,
    private readonly campaigns: Map<string, string>,
    private readonly adGroups: Map<string, string>,
  ) {}

  static async load(db: Database, coder: Coder): Promise<ReportNames> {
    const live = await liveAccount(db);
    const campaigns = new Map<string, string>();
    const adGroups = new Map<string, string>();
    for (const { key, name } of live.all("campaign")) campaigns.set(fold(name), key).set(fold(key), key);
    for (const { key, name, campaign } of live.all("adGroup")) {
      adGroups.set(`${campaign}/${fold(name)}`, key).set(`${campaign}/${fold(key)}`, key);
    }
    return new ReportNames(coder, await itemIndex(db), campaigns, adGroups);
  }

  /** Key of the campaign of that name, or the name itself where the account has none. */
  campaign(name: string): { key: string; code: number } {
    const key = this.campaigns.get(fold(name)) ?? name;
    return { key, code: this.coder.code("campaign", key) };
  }

  adGroup(campaign: string, name: string): number {
    return this.coder.code("adGroup", this.adGroups.get(`${campaign}/${fold(name)}`) ?? name);
  }

  text(kind: "target" | "term" | "placement", text: string): number {
    return this.coder.code(kind, text);
  }

  /** The item's number; one that the catalogue does not have keeps its ID under a number of its own. */
  item(id: string): number {
    const no = this.itemOf(id);
    if (no !== null) return no;
    this.unmatched.add(id);
    return UNMATCHED_FROM + this.coder.code("item", id);
  }
}

function fold(name: string): string {
  return name.trim().replace(/\s+/g, " ").toLowerCase();
}
