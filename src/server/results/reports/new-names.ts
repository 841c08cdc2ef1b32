import type { ReportMapping } from "@/core/results/reports/report-kinds";
import type { Database } from "@/db/client";
import { BrokenRow } from "../../catalogue/reading/feed-rows";
import type { ReadingChoice } from "../../catalogue/reading/open-feed";
import { liveAccount } from "../../account/state";
import { codeTexts } from "../load";
import { traitValues } from "../traits";
import { fold } from "./names";
import { openReport } from "./open-report";

/** Campaign names of a file that are not known, and the campaigns that the file does not name, each of which one may be. */
export interface NewNames {
  names: string[];
  known: { key: string; name: string }[];
}

/** Rows gone through in search of names, and names that are asked about. */
const MOST_ROWS = 200_000;
const MOST_NAMES = 20;

/**
 * Finds the campaign names in a report that neither the account nor an earlier report knows. A renamed campaign is one of
 * them, and its days would count twice if it were taken for a new one. Nothing is asked where the report has IDs, nor
 * where no campaign is known that the file leaves out.
 */
export async function newNames(
  db: Database,
  file: string,
  reading: Partial<ReadingChoice> | null,
  mapping: ReportMapping,
): Promise<NewNames> {
  const none: NewNames = { names: [], known: [] };
  const heading = mapping.columns.campaign;
  if (!heading || mapping.columns.campaignId) return none;
  const known = await knownCampaigns(db);
  if (known.size === 0) return none;
  const report = await openReport(file, reading);
  const at = report.headings.indexOf(heading);
  const found = new Map<string, string>();
  let rows = 0;
  for await (const batch of report.batches()) {
    for (const cells of batch.rows) {
      const name = cells instanceof BrokenRow ? "" : (cells[at] ?? "").trim();
      if (name !== "") found.set(fold(name), name);
    }
    rows += batch.rows.length;
    if (rows >= MOST_ROWS) break;
  }
  const fresh = [...found].filter(([folded]) => !known.has(folded)).map(([, name]) => name);
  const named = new Set([...found.keys()].map((folded) => known.get(folded)?.key).filter(Boolean));
  const left = new Map([...known.values()].filter(({ key }) => !named.has(key)).map((one) => [one.key, one]));
  if (fresh.length === 0 || left.size === 0 || fresh.length > MOST_NAMES) return none;
  return { names: fresh.sort(), known: [...left.values()].sort((a, b) => a.name.localeCompare(b.name)) };
}

/** Campaigns of the account and of earlier reports, by each name they go by. */
async function knownCampaigns(db: Database): Promise<Map<string, { key: string; name: string }>> {
  const known = new Map<string, { key: string; name: string }>();
  const account = await liveAccount(db);
  const shown = await traitValues(db, "name");
  for (const [code, key] of await codeTexts(db, "campaign")) {
    if (key === "" || account.get(key)) continue;
    const one = { key, name: shown.get(code) ?? key };
    known.set(fold(key), one).set(fold(one.name), one);
  }
  for (const { key, name } of account.all("campaign"))
    known.set(fold(key), { key, name }).set(fold(name), { key, name });
  return known;
}
