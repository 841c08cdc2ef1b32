import type { Account } from "./account";
import { kindOf, type AccountRecord } from "./records";
import type { Known } from "./record-kind";
import { labelsKey, shelfSetOf } from "./records/labels";

/** What an empty value of a split is called. */
export const NO_VALUE_LABEL = "(no value)";

/** An account as the kinds of records may ask about it. */
export function knownIn(account: Account): Known {
  const known: Known = {
    get: (key) => account.get(key),
    nameOf: (key) => {
      const record = account.get(key);
      return record ? kindOf(record.type).name(record, known) : null;
    },
    valueName: (by, value) => {
      if (value === "") return NO_VALUE_LABEL;
      const set = shelfSetOf(by);
      return (set !== null && account.find("labels", labelsKey(set, value))?.name) || value;
    },
  };
  return known;
}

/** How a record is called with where it stands, for example `Seeds · Thornlea`. */
export function recordName(account: Account, record: AccountRecord): string {
  return kindOf(record.type).name(record, knownIn(account));
}
