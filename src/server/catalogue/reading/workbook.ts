import { SaxesParser } from "saxes";
import yauzl from "yauzl";
import { LIMITS } from "@/core/catalogue/limits";
import { localName } from "@/core/catalogue/xml-elements";
import { giveUp } from "@/core/kit/outcome";
import { settings } from "../../settings";

/*
 * Workbooks as ECMA-376 describes them (Office Open XML, parts 1 and 2): a ZIP archive of XML parts. What is read here is
 * what a feed needs of them: the names of the sheets, shared texts, and which numbers are shown as dates.
 */

/** Shared texts that one workbook may hold, in characters. */
const MOST_SHARED = 200_000_000;

/** An archive whose parts are read one at a time. */
export class Archive {
  private constructor(
    private readonly zip: yauzl.ZipFile,
    private readonly entries: Map<string, yauzl.Entry>,
  ) {}

  /** @throws FailureError when it unpacks to more than a feed may, any other error when it is damaged */
  static async open(file: string): Promise<Archive> {
    const zip = await new Promise<yauzl.ZipFile>((resolve, reject) => {
      yauzl.open(file, { lazyEntries: true, autoClose: false }, (error, opened) =>
        opened ? resolve(opened) : reject(error ?? new Error("no archive")),
      );
    });
    const entries = new Map<string, yauzl.Entry>();
    await new Promise<void>((resolve, reject) => {
      zip.on("entry", (entry: yauzl.Entry) => {
        entries.set(entry.fileName, entry);
        zip.readEntry();
      });
      zip.on("end", resolve);
      zip.on("error", reject);
      zip.readEntry();
    });
    // The reader checks that each part is as large as it says here.
    const bytes = [...entries.values()].reduce((sum, entry) => sum + entry.uncompressedSize, 0);
    if (bytes > settings().HOTSHELF_MAX_FEED_MB * 1024 * 1024) {
      zip.close();
      giveUp(
        "feed-too-large",
        `The workbook unpacks to more than ${settings().HOTSHELF_MAX_FEED_MB} MB.`,
        "Split it, leave long columns out, or raise HOTSHELF_MAX_FEED_MB.",
      );
    }
    return new Archive(zip, entries);
  }

  has(name: string): boolean {
    return this.entries.has(name);
  }

  /** Bytes of a part once unpacked. */
  sizeOf(name: string): number {
    return this.entries.get(name)?.uncompressedSize ?? 0;
  }

  /** The text of a part, piece by piece; nothing where there is no such part. */
  async *text(name: string): AsyncIterable<string> {
    const entry = this.entries.get(name);
    if (!entry) return;
    const stream = await new Promise<NodeJS.ReadableStream>((resolve, reject) => {
      this.zip.openReadStream(entry, (error, opened) => (opened ? resolve(opened) : reject(error ?? new Error(name))));
    });
    const decoder = new TextDecoder();
    for await (const chunk of stream as AsyncIterable<Buffer>) yield decoder.decode(chunk, { stream: true });
    yield decoder.decode();
  }

  close(): void {
    this.zip.close();
  }
}

type Attributes = Record<string, string>;

/** What happens while a part is read; names without their prefix. */
export interface PartEvents {
  open(name: string, attributes: Attributes): void;
  close(name: string): void;
  text(text: string): void;
}

/** A parser of XML parts that refuses what no workbook holds, and passes over readings written above texts. */
export function partParser({ open, close, text }: PartEvents): SaxesParser {
  const parser = new SaxesParser({ xmlns: false });
  let depth = 0;
  /** How deep the reading stands that is being passed over; 0 outside of any. */
  let reading = 0;
  parser.on("doctype", () => giveUp("feed-sheet-broken", "The workbook's XML has a DOCTYPE, which none may have."));
  parser.on("opentag", ({ name, attributes }) => {
    if (++depth > LIMITS.depth) giveUp("feed-deep", `The workbook nests deeper than ${LIMITS.depth} levels.`);
    if (reading === 0 && localName(name) === "rPh") reading = depth;
    if (reading === 0) open(localName(name), attributes as Attributes);
  });
  parser.on("closetag", ({ name }) => {
    if (reading === 0) close(localName(name));
    if (depth-- === reading) reading = 0;
  });
  const pass = (piece: string) => {
    if (reading === 0) text(piece);
  };
  parser.on("text", pass);
  parser.on("cdata", pass);
  parser.on("error", (error) => {
    throw error;
  });
  return parser;
}

async function readPart(archive: Archive, name: string, events: Partial<PartEvents>): Promise<void> {
  const none = () => {};
  const parser = partParser({ open: none, close: none, text: none, ...events });
  let isEmpty = true;
  for await (const piece of archive.text(name)) {
    if (piece !== "") isEmpty = false;
    parser.write(piece);
  }
  if (!isEmpty) parser.close();
}

/** What rows of any sheet are read with. */
export interface Workbook {
  archive: Archive;
  sheets: { name: string; part: string }[];
  /** Whether days count from 1904, as in old workbooks. */
  from1904: boolean;
  shared: string[];
  /** Whether a cell of a style shows its number as a date, by the style's number. */
  isDate: boolean[];
  /** How many digits a style shows at least, noughts before the number included. */
  noughts: number[];
}

/** Where relations of the workbook lead. */
async function relations(archive: Archive): Promise<Map<string, string>> {
  const targets = new Map<string, string>();
  await readPart(archive, "xl/_rels/workbook.xml.rels", {
    open: (name, { Id, Target }) => {
      if (name === "Relationship" && Id && Target) {
        targets.set(Id, Target.startsWith("/") ? Target.slice(1) : `xl/${Target}`);
      }
    },
  });
  return targets;
}

/** The texts that cells share. */
async function sharedTexts(archive: Archive): Promise<string[]> {
  const texts: string[] = [];
  let now = "";
  let isText = false;
  let length = 0;
  await readPart(archive, "xl/sharedStrings.xml", {
    open: (name) => {
      if (name === "si") now = "";
      isText = name === "t";
    },
    text: (text) => {
      if (!isText) return;
      now += text;
      length += text.length;
      if (length > MOST_SHARED) giveUp("feed-too-large", "The workbook's texts are longer than any feed's.");
    },
    close: (name) => {
      isText = false;
      if (name === "si") texts.push(now);
    },
  });
  return texts;
}

/** Number formats that every workbook knows as dates or times, without writing them down. */
function isKnownDate(format: number): boolean {
  return (format >= 14 && format <= 22) || (format >= 27 && format <= 36) || (format >= 45 && format <= 58);
}

/** Whether a written format shows a date: it has a day, month, year or hour outside quoted and bracketed parts. */
function isDateFormat(code: string): boolean {
  return /[dmyhs]/i.test(code.replace(/"[^"]*"|\[[^\]]*\]|\\./g, "")) && !/^general$/i.test(code);
}

/** The noughts of a format that is nothing but those, such as `00000`. */
function noughtsOf(code: string): number {
  return /^(?:0{2,30})(?:;.*)?$/.exec(code.replace(/"[^"]*"|\\./g, "").trim())?.[0].split(";")[0]!.length ?? 0;
}

async function cellStyles(archive: Archive): Promise<Pick<Workbook, "isDate" | "noughts">> {
  const formats = new Map<number, string>();
  const isDate: boolean[] = [];
  const noughts: number[] = [];
  let isCell = false;
  await readPart(archive, "xl/styles.xml", {
    open: (name, { numFmtId, formatCode }) => {
      const format = Number(numFmtId ?? 0);
      if (name === "numFmt") formats.set(format, formatCode ?? "");
      if (name === "cellXfs") isCell = true;
      if (name !== "xf" || !isCell) return;
      const code = formats.get(format);
      isDate.push(code === undefined ? isKnownDate(format) : isDateFormat(code));
      noughts.push(code === undefined ? 0 : noughtsOf(code));
    },
    close: (name) => {
      if (name === "cellXfs") isCell = false;
    },
  });
  return { isDate, noughts };
}

/** Reads what stands beside the rows of a workbook's sheets. */
export async function openWorkbook(archive: Archive): Promise<Workbook> {
  const targets = await relations(archive);
  const sheets: Workbook["sheets"] = [];
  let from1904 = false;
  await readPart(archive, "xl/workbook.xml", {
    open: (name, attributes) => {
      if (name === "workbookPr") from1904 = /^(?:1|true)$/.test(attributes["date1904"] ?? "");
      if (name !== "sheet") return;
      const id = Object.entries(attributes).find(([key]) => /:id$/.test(key))?.[1] ?? "";
      const part = targets.get(id);
      if (part && archive.has(part)) sheets.push({ name: attributes["name"] ?? "sheet", part });
    },
  });
  return { archive, sheets, from1904, shared: await sharedTexts(archive), ...(await cellStyles(archive)) };
}
