import type { Transaction } from "@libsql/client";
import type { Database } from "@/db/client";
import { codes } from "@/db/schema";
import { bulkInsert } from "../bulk";

export type CodeKind = (typeof codes.$inferSelect)["kind"];

/** Gives numbers to the texts that facts repeat, making new ones on the way. */
export class Coder {
  private fresh: [no: number, kind: string, text: string][] = [];

  private constructor(
    private readonly known: Map<string, number>,
    private next: number,
  ) {}

  static async load(db: Database): Promise<Coder> {
    const rows = await db.select().from(codes);
    const known = new Map(rows.map((row) => [`${row.kind}\u001f${row.text}`, row.no]));
    return new Coder(known, rows.reduce((most, row) => Math.max(most, row.no), 0) + 1);
  }

  code(kind: CodeKind, text: string): number {
    const key = `${kind}\u001f${text}`;
    let no = this.known.get(key);
    if (no === undefined) {
      no = this.next++;
      this.known.set(key, no);
      this.fresh.push([no, kind, text]);
    }
    return no;
  }

  /** Stores the numbers made since the last time; to be called in the transaction that uses them. */
  async save(tx: Transaction): Promise<void> {
    await bulkInsert(tx, codes, ["no", "kind", "text"], this.fresh);
    this.fresh = [];
  }
}
