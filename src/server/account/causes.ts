import type { Cause } from "@/core/account/cause";
import type { Database } from "@/db/client";

export type Transaction = Awaited<ReturnType<Database["$client"]["transaction"]>>;

/** A value as a cell of JSON; null stays nothing. */
export const asJson = (value: unknown) => (value === null ? null : JSON.stringify(value));

/** The numbers under which reasons of one cause are kept; new ones are made. */
export async function causeNumbers(
  tx: Transaction,
  { kind, id }: Cause,
  reasons: Set<string>,
): Promise<Map<string, number>> {
  const asked = JSON.stringify([...reasons]);
  await tx.execute({
    sql: "INSERT INTO causes (kind, of, reason) SELECT ?, ?, value FROM json_each(?) WHERE true ON CONFLICT DO NOTHING",
    args: [kind, id, asked],
  });
  const { rows } = await tx.execute({
    sql: "SELECT reason, id FROM causes WHERE kind = ? AND of = ? AND reason IN (SELECT value FROM json_each(?))",
    args: [kind, id, asked],
  });
  return new Map(rows.map((row) => [String(row[0]), Number(row[1])]));
}
