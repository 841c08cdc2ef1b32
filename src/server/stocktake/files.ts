import { sql } from "drizzle-orm";
import { asText } from "@/core/kit/columns";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { plainSpelling, type Ref, type Spelling } from "@/core/stocktake/phrase";
import { reportHtml, type Paper } from "@/core/stocktake/html";
import { Aliases, findUnmasked, isMasked, maskedSpelling, SCALED_TO } from "@/core/stocktake/masking";
import { refsIn, type Report } from "@/core/stocktake/report";
import { inUnits, reportSheets, type Amount, type Sheet } from "@/core/stocktake/sheets";
import { brandFinder } from "@/core/targets/own-brands";
import type { Database } from "@/db/client";
import { stocktakeAliases } from "@/db/schema";
import { loadCatalogue } from "../catalogue/load";
import { workbook, type FileAnswer } from "../files/answers";
import type { WorkspaceInfo } from "../workspaces";
import { loadReport } from "./stocktakes";

export const FILE_FORMATS = ["html", "xlsx"] as const;
export type FileFormat = (typeof FILE_FORMATS)[number];

/** A report ready to be written, with how names and amounts go into it. */
interface Written {
  report: Report;
  spelling: Spelling;
  amount: Amount;
  note: string;
  /** Names that must not be in a masked file; null where nothing is masked. */
  secrets: string[] | null;
  /** Names that stay as they are: what stands in them gives nothing away. */
  open: string[];
}

/** A stocktake as a file: one HTML page that needs no network, or a workbook of its tables. Masked files are searched before they leave. */
export async function stocktakeFile(
  db: Database,
  info: WorkspaceInfo,
  id: number,
  { format, masked, paper }: { format: FileFormat; masked: boolean; paper: Paper },
): Promise<Outcome<FileAnswer>> {
  const loaded = await loadReport(db, info, id);
  if (!loaded.ok) return loaded;
  const written = masked ? await mask(db, info, loaded.value) : plain(info, loaded.value);
  const name = `stocktake-${id}${masked ? "-masked" : ""}`;
  if (format === "html") {
    const html = reportHtml(written.report, written.spelling, { paper, note: written.note });
    const check = checkMasked(written, html, () =>
      reportHtml(emptied(written.report), written.spelling, { paper, note: written.note }),
    );
    return check ?? ok({ file: html, name: `${name}.html`, contentType: "text/html; charset=utf-8" });
  }
  const sheets = reportSheets(written.report, written.spelling, written.amount);
  const check = checkMasked(written, sheetText(sheets), () =>
    sheetText(reportSheets(emptied(written.report), written.spelling, written.amount)),
  );
  return check ?? ok(workbook(`${name}.xlsx`, sheets));
}

/** All texts of a workbook: a figure is no name. */
const sheetText = (sheets: readonly Sheet[]) =>
  sheets
    .flatMap(({ name, headings, rows }) => [
      name,
      ...headings,
      ...rows.flat().filter((cell) => typeof cell === "string"),
    ])
    .join(" \n ");

/** The same report without anything of one's own: what stands in it tells nobody anything. */
function emptied(report: Report): Report {
  const chapters = report.chapters.map(({ key, table }) => ({
    key,
    lacks: null,
    table: table && { ...table, rows: [], rest: null, total: null },
  }));
  return {
    ...report,
    name: "",
    remarks: {},
    chapters,
    house: { name: "", logo: "" },
    head: { ...report.head, findings: [] },
  };
}

/** Refuses a file in which something masked was found. */
function checkMasked({ secrets, open }: Written, text: string, harmless: () => string): Outcome<never> | null {
  if (!secrets) return null;
  const usual = [withoutTags(harmless()), USUAL_WORDS, ...open].join(" \n ");
  const found = findUnmasked(withoutTags(text), secrets, usual);
  if (found.length === 0) return null;
  return fail(
    "stocktake-unmasked",
    `This file would still tell ${found
      .slice(0, 5)
      .map((name) => `“${name}”`)
      .join(", ")}${found.length > 5 ? ` and ${found.length - 5} more` : ""}. Nothing was written.`,
    "Look into remarks and the name of the stocktake: what you wrote yourself is not masked for you.",
  );
}

const withoutTags = (text: string) => text.replace(/<style>[\s\S]*?<\/style>|<[^>]+>/g, " ");

/** Words that findings are written in, whatever they are about. */
const USUAL_WORDS =
  "items item terms term campaigns campaign listings listing brands brand placements placement pages page searches search orders order clicks click spend sales goal month day days money";

function plain({ currency }: WorkspaceInfo, report: Report): Written {
  return { report, spelling: plainSpelling(currency), amount: inUnits, note: "", secrets: null, open: [] };
}

async function mask(db: Database, info: WorkspaceInfo, report: Report): Promise<Written> {
  const { brand } = (await loadCatalogue(db, ["brand"])).columns;
  const brands = brand ? asText(brand).values.filter((name) => name.trim() !== "") : [];
  const finder = brandFinder([...brands, info.name]);
  // Where nobody told of brands, any term may hold one.
  const hasBrand = brands.length > 0 ? finder : () => true;
  const refs = refsIn(report);
  const secret = refs.filter((ref) => isMasked(ref, hasBrand));
  const real = [...refs.flatMap(({ name, key }) => [name, key]), ...brands, info.name];
  const known = new Map((await db.select().from(stocktakeAliases)).map(({ kind, key, no }) => [`${kind}\n${key}`, no]));
  const aliases = new Aliases(known, real);
  for (const ref of secret) aliases.of(ref);
  await keepAliases(db, aliases);
  const spent = report.head.total.cost;
  return {
    report: { ...report, house: { name: "", logo: "" } },
    spelling: maskedSpelling(aliases, spent, hasBrand),
    amount: (mills) => (spent > 0 ? (mills / spent) * SCALED_TO : 0),
    note: `Names are masked: the same name stands for the same thing throughout. Amounts are scaled so that all that was spent in these days is ${SCALED_TO.toLocaleString("en-GB")}.`,
    secrets: secretNames(secret, brands, info),
    open: refs.filter((ref) => !isMasked(ref, hasBrand)).map(({ name, key }) => name || key),
  };
}

function secretNames(refs: readonly Ref[], brands: readonly string[], info: WorkspaceInfo): string[] {
  return [...new Set([...refs.flatMap(({ name, key }) => [name, key]), ...brands, info.name])].filter(
    (name) => name.trim() !== "",
  );
}

/** Rows a statement: each binds three values. */
const AT_ONCE = 300;

async function keepAliases(db: Database, { fresh }: Aliases): Promise<void> {
  for (let from = 0; from < fresh.length; from += AT_ONCE) {
    await db
      .insert(stocktakeAliases)
      .values(fresh.slice(from, from + AT_ONCE))
      .onConflictDoUpdate({ target: [stocktakeAliases.kind, stocktakeAliases.key], set: { no: sql`excluded.no` } });
  }
}
