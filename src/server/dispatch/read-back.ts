import { desc, eq } from "drizzle-orm";
import Papa from "papaparse";
import { z } from "zod";
import { detectDelimiter } from "@/core/catalogue/detect";
import { changesInWords, type ChangeWords } from "@/core/account/words";
import { toTsv } from "@/core/dispatch/cells";
import { STRUCTURE_HEADINGS } from "@/core/dispatch/export";
import { withoutProfile } from "@/core/dispatch/export-profile";
import { readBack, type ReadBackFault } from "@/core/dispatch/read-back";
import { diffSize } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { dispatches } from "@/db/schema";
import { commit } from "../account/commit";
import { listFields } from "../catalogue/field-list";
import { liveAccount, plannedAccount } from "../account/state";
import { BrokenRow } from "../catalogue/reading/feed-rows";
import { openFeed } from "../catalogue/reading/open-feed";
import { takeUpload, uploadFile } from "../catalogue/uploads";
import type { WorkspaceInfo } from "../workspaces";
import { writeBooks } from "../channel/books";
import { channelChoice } from "../channel/choice";
import { listProfiles } from "./export-profiles";
import { lookAtArrival } from "./send";

export const readBackSchema = z.object({
  /** The file's text, or cells copied out of a spreadsheet. */
  text: z.string().min(1).max(60_000_000),
});

/** What a file that was edited elsewhere would change. */
export interface ReadBackView {
  lines: number;
  same: number;
  changes: number;
  /** The first of them in words. */
  words: ChangeWords[];
  faults: ReadBackFault[];
  moreFaults: number;
}

const MOST_TOLD = 100;

function parse(text: string): { headings: string[]; rows: string[][] } {
  const clean = text.replace(/^\uFEFF/, "");
  const delimiter = clean.split("\n", 1)[0]!.includes("\t") ? "\t" : detectDelimiter(clean.slice(0, 20_000));
  const [headings = [], ...rows] = Papa.parse<string[]>(clean, { delimiter, skipEmptyLines: false }).data;
  return { headings, rows };
}

/**
 * The cells of a file of any form that feeds come in, a workbook above all, as text to be read back. Nothing is kept of it.
 * @throws FailureError when it can't be read
 */
export function cellsOfFile(slug: string, body: ReadableStream<Uint8Array> | null): Promise<{ text: string }> {
  const look = async (upload: string) => {
    const file = await openFeed(uploadFile(slug, upload));
    const rows: string[][] = [];
    for await (const batch of file.batches()) {
      for (const row of batch.rows) if (!(row instanceof BrokenRow)) rows.push(row);
    }
    return { text: toTsv(file.headings, rows) };
  };
  return takeUpload(slug, body, look, false);
}

/** A file's lines as they are without the profile that wrote them, where its headings are one's. */
async function parseWithProfiles(db: Database, text: string): Promise<{ headings: string[]; rows: string[][] }> {
  const parsed = parse(text);
  if (parsed.headings.every((heading) => STRUCTURE_HEADINGS.includes(heading.trim().toLowerCase()))) return parsed;
  for (const profile of await listProfiles(db)) {
    const plain = withoutProfile(parsed.headings, parsed.rows, profile);
    if (plain) return plain;
  }
  return parsed;
}

/** Whether the catalogue has a field that an ad line could name. */
async function fieldTest(db: Database): Promise<(name: string) => boolean> {
  const names = new Set((await listFields(db)).map(({ name }) => name));
  return (name) => names.has(name);
}

/** What a file would change, before it is in the basket. */
export async function previewReadBack(db: Database, info: WorkspaceInfo, text: string): Promise<Outcome<ReadBackView>> {
  const { headings, rows } = await parseWithProfiles(db, text);
  const planned = await plannedAccount(db);
  const { draft, faults, same } = readBack(planned, headings, rows, await fieldTest(db));
  const diff = draft.diff();
  return ok({
    ...{ lines: rows.length, same, changes: diffSize(diff) },
    words: changesInWords(planned, diff, info.currency).slice(0, MOST_TOLD),
    faults: faults.slice(0, MOST_TOLD),
    moreFaults: Math.max(0, faults.length - MOST_TOLD),
  });
}

/** Puts what a file changes into the basket; lines with faults are left out, as the preview said. */
export async function keepReadBack(db: Database, who: string, text: string): Promise<Outcome<{ changes: number }>> {
  const { headings, rows } = await parseWithProfiles(db, text);
  const isField = await fieldTest(db);
  return commit(db, who, null, ({ planned }) => {
    const { draft, faults } = readBack(planned, headings, rows, isField);
    const diff = draft.diff();
    if (diffSize(diff) === 0) {
      return fail("file-no-change", "The file changes nothing.", faults[0]?.message ?? "It is as the account is.");
    }
    const reason = `From a file: ${plural(diffSize(diff), "change")}`;
    const into = { draft, cause: { kind: "file" as const, id: "" }, reason };
    return ok({ into, told: null, value: { changes: diffSize(diff) } });
  });
}

/** What a file says that stands at a channel of files, held against what was given out. */
export interface FileStands {
  lines: number;
  same: number;
  otherwise: number;
  /** Records that were given out and that the file does not have. */
  missing: number;
  faults: ReadBackFault[];
  moreFaults: number;
}

/**
 * Takes a structure file from where files are carried to as what stands there, all of it: records that it does not have are
 * not there. Nothing of the account changes; how the two differ is told by reading the channel back.
 */
export async function takeStands(db: Database, info: WorkspaceInfo, text: string): Promise<Outcome<FileStands>> {
  if ((await channelChoice(db)).kind !== "files") {
    return fail(
      "channel-not-files",
      "This workspace's channel says itself what stands there.",
      "Read it back instead.",
    );
  }
  const { headings, rows } = await parseWithProfiles(db, text);
  const live = await liveAccount(db);
  const { draft, faults, same } = readBack(live, headings, rows, await fieldTest(db));
  const keyAt = headings.findIndex((heading) => heading.trim().toLowerCase() === "key");
  if (keyAt < 0) return fail("file-no-key", "There is no column “key”.", "Export the structure with its keys.");
  const listed = new Set(rows.map((row) => (row[keyAt] ?? "").trim().replace(/^'/, "")));
  const stands = [...live.records()].flatMap((record) => (listed.has(record.key) ? [draft.get(record.key)!] : []));
  if (stands.length === 0) {
    return fail(
      "file-foreign",
      "No line of the file is of a record that was given out.",
      "Choose the structure's file.",
    );
  }
  const tx = await db.$client.transaction("write");
  try {
    await tx.execute("DELETE FROM channel_books");
    await writeBooks(tx, new Map(stands.map((record) => [record.key, record])));
    await tx.commit();
  } finally {
    tx.close();
  }
  await lookAtFiles(db, info);
  return ok({
    ...{ lines: rows.length, same, otherwise: diffSize(draft.diff()), missing: live.size - stands.length },
    faults: faults.slice(0, MOST_TOLD),
    moreFaults: Math.max(0, faults.length - MOST_TOLD),
  });
}

/** Dispatches that are looked at again once a file tells what stands. */
const LOOKED_AT = 30;

async function lookAtFiles(db: Database, info: WorkspaceInfo): Promise<void> {
  const given = await db
    .select({ id: dispatches.id })
    .from(dispatches)
    .where(eq(dispatches.channel, "files"))
    .orderBy(desc(dispatches.id))
    .limit(LOOKED_AT);
  for (const { id } of given) await lookAtArrival(db, info, id, true);
}
