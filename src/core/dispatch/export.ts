import type { Account } from "../account/account";
import { knownIn } from "../account/names";
import type { ExportCells, ExportColumn } from "../account/record-kind";
import { kindOf, RECORD_TYPES, type AccountRecord } from "../account/records";
import { groupBy } from "../kit/group-by";
import { toCsv } from "./csv";

const COLUMNS: ExportColumn[] = [
  ...(["campaign", "purpose", "campaign_status", "daily_budget", "bidding", "goal_return", "serve_order"] as const),
  ...(["ad_group", "ad_group_status", "ad_group_bid", "product_group", "role", "product_group_status", "bid"] as const),
  ...(["kind", "auction_flex", "slot_factors", "country", "first_day", "last_day", "folder"] as const),
  ...(["headlines", "descriptions", "pictures", "logo", "own_brand", "address", "link"] as const),
];

/** The headings of a structure's file. */
export const STRUCTURE_HEADINGS: string[] = ["level", ...COLUMNS, "key"];

/**
 * An account's structure as rows of a file: a row a record, each campaign with its ad groups and what they hold below it, then what
 * stands beside campaigns. Money in currency units.
 */
export function structureRows(account: Account): (string | number | null)[][] {
  const known = knownIn(account);
  const rows: (string | number | null)[][] = [];
  const put = (record: AccountRecord, above: ExportCells) => {
    const kind = kindOf(record.type);
    const cells: ExportCells = { ...above, ...kind.cells(record, known) };
    rows.push([kind.label[0], ...COLUMNS.map((column) => cells[column] ?? null), record.key]);
    return cells;
  };
  const records = RECORD_TYPES.flatMap((type): readonly AccountRecord[] => account.all(type));
  const adGroupsOf = groupBy(account.all("adGroup"), ({ campaign }) => campaign);
  const heldBy = groupBy(
    records.filter((record) => "adGroup" in record),
    ({ adGroup }) => adGroup,
  );
  const told = new Set<AccountRecord>();
  const tell = (record: AccountRecord, above: ExportCells) => {
    told.add(record);
    return put(record, above);
  };
  for (const campaign of account.all("campaign")) {
    const cells = tell(campaign, {});
    for (const adGroup of adGroupsOf.get(campaign.key) ?? []) {
      const inGroup = tell(adGroup, cells);
      for (const held of heldBy.get(adGroup.key) ?? []) tell(held, inGroup);
    }
  }
  for (const record of records) if (!told.has(record)) put(record, {});
  return rows;
}

/** An account's structure as CSV. */
export function structureCsv(account: Account): string {
  return toCsv(STRUCTURE_HEADINGS, structureRows(account));
}
