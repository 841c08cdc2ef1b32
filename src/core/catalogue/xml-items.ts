import { SaxesParser } from "saxes";
import { giveUp } from "../kit/outcome";
import { GrowingColumns } from "./growing-columns";
import { LIMITS } from "./limits";

const ITEM_ELEMENTS = new Set(["item", "entry"]);

/** Strips a namespace prefix: `g:price` is `price`. */
function localName(name: string): string {
  const colon = name.indexOf(":");
  return colon < 0 ? name : name.slice(colon + 1);
}

/**
 * Reads RSS 2.0 items and Atom entries from pushed text. Every element inside an item becomes a column by its local
 * name; nested ones are joined by a dot (`shipping.price`), repeated ones by " | ". An Atom link counts by its href.
 * Columns are added as they are first met, so later rows can be longer than earlier ones.
 */
export class XmlItemReader {
  private readonly growing = new GrowingColumns();
  private readonly parser = new SaxesParser({ xmlns: false });
  private rows: string[][] = [];
  private row: string[] | null = null;
  private path: string[] = [];
  private depth = 0;
  private itemDepth = 0;
  private text = "";
  itemsSeen = 0;

  /** The columns met so far. */
  get columns(): string[] {
    return this.growing.names;
  }

  constructor() {
    this.parser.on("doctype", (doctype) => {
      if (/<!ENTITY/i.test(doctype)) {
        giveUp(
          "feed-xml-entities",
          "The XML declares entities of its own, which is refused: they can blow a small file up without end.",
          "Export the feed without a DOCTYPE.",
        );
      }
    });
    this.parser.on("opentag", (tag) => this.open(tag.name, tag.attributes as Record<string, string>));
    this.parser.on("closetag", () => this.close());
    this.parser.on("text", (text) => this.addText(text));
    this.parser.on("cdata", (text) => this.addText(text));
    this.parser.on("error", (error) => {
      const reason = error.message.replace(/^\d+:\d+: /, "").replace(/\.$/, "");
      giveUp(
        "feed-xml-broken",
        `The XML breaks off at line ${this.parser.line}, in item ${this.itemsSeen + (this.row ? 1 : 0)}: ${reason}.`,
        "Nothing was taken in. Fetch the feed again; a download that stopped early looks like this.",
      );
    });
  }

  /** Takes the next piece of text and returns the rows completed by it. */
  push(text: string): string[][] {
    this.parser.write(text);
    const done = this.rows;
    this.rows = [];
    return done;
  }

  /** Ends the document. Throws a failure when it is cut off, or holds no items. */
  end(): void {
    this.parser.close();
    if (this.itemsSeen === 0) {
      giveUp(
        "feed-xml-no-items",
        "The XML holds no <item> (RSS) and no <entry> (Atom).",
        "Check that this is the product feed and not a sitemap or another XML file.",
      );
    }
  }

  private open(name: string, attributes: Record<string, string>): void {
    this.depth++;
    if (this.depth > LIMITS.depth) {
      giveUp("feed-xml-deep", `The XML nests deeper than ${LIMITS.depth} elements.`, "A product feed is flat.");
    }
    const local = localName(name);
    if (this.row === null) {
      if (ITEM_ELEMENTS.has(local)) {
        this.row = [];
        this.itemDepth = this.depth;
        this.itemsSeen++;
      }
      return;
    }
    this.path.push(local);
    this.text = "";
    if (local === "link" && attributes["href"]) this.put("link", attributes["href"]);
  }

  private addText(text: string): void {
    if (this.row !== null && this.text.length <= LIMITS.cell) this.text += text;
  }

  private close(): void {
    if (this.row !== null) {
      if (this.depth === this.itemDepth) {
        this.rows.push(this.row);
        this.row = null;
        this.path = [];
      } else {
        const value = this.text.trim();
        if (value !== "") this.put(this.path.join("."), value);
        this.path.pop();
        this.text = "";
      }
    }
    this.depth--;
  }

  private put(column: string, value: string): void {
    this.growing.put(this.row as string[], column, value);
  }
}
