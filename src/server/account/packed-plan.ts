import { gunzipSync, gzipSync } from "node:zlib";
import type { AccountRecord } from "@/core/account/records";
import { OLD_REACHES, REACHES } from "@/core/account/records/reach";
import type { PlannedRecords } from "@/core/planogram/planned-records";

/** The records of a plan as they are kept in the database: gzipped JSON. */
export function packPlan(plan: PlannedRecords): Buffer {
  return gzipSync(JSON.stringify([...plan.values()]), { level: 1 });
}

/** Plans that were kept by earlier versions are records by key, their flex is not a range, and their reach has no ground. */
export function unpackPlan(bytes: ArrayBuffer | Uint8Array): PlannedRecords {
  const kept = JSON.parse(gunzipSync(bytes).toString()) as AccountRecord[] | Record<string, AccountRecord>;
  return new Map(Object.values(kept).map((record) => [record.key, withReach(withRange(record))]));
}

/** Flex as it was kept before it was a range; the migration of databases turns it in the same way. */
interface OldFlex {
  mode: "hold" | "ease" | "stretch";
  limit: number;
}

function withRange(record: AccountRecord): AccountRecord {
  if (record.type !== "campaign" || !record.flex || !("mode" in record.flex)) return record;
  const { mode, limit } = record.flex as unknown as OldFlex;
  return { ...record, flex: { below: mode === "hold" ? 0 : 0.6, above: mode === "stretch" ? limit : 0 } };
}

/** As the migration of databases reads it: the nearest of what there is now. */
function withReach(record: AccountRecord): AccountRecord {
  if (record.type !== "reach") return record;
  const kind = REACHES.find((reach) => OLD_REACHES[reach] === (record.kind as string));
  return kind ? { ...record, kind } : record;
}
