import type { AccountRecord } from "./records";
import type { Campaign } from "./records/campaign";

/** The campaign that a record belongs to; undefined for what is of the whole workspace. @param get a record by its key */
export function campaignOf(
  record: AccountRecord,
  get: (key: string) => AccountRecord | undefined,
): Campaign | undefined {
  if (record.type === "campaign") return record;
  const above =
    "adGroup" in record
      ? record.adGroup
      : "campaign" in record
        ? record.campaign
        : "scope" in record
          ? record.scope
          : null;
  const parent = above === null ? undefined : get(above);
  return parent && parent !== record ? campaignOf(parent, get) : undefined;
}
