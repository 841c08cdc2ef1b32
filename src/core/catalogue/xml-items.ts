import { SaxesParser } from "saxes";
import { giveUp } from "../kit/outcome";
import { GrowingColumns } from "./growing-columns";
import { LIMITS } from "./limits";
import { variantRows } from "./variants";
import { isDeclaration, ITEM_ELEMENTS, localName } from "./xml-elements";
import { xmlEntities } from "./xml-entities";

/** Attributes that tell how the text of an element is written and nothing about the item. */
const HOW_WRITTEN = new Set(["isPermaLink", "type", "rel", "title", "length", "hreflang"]);
const REFUSED = "Nothing was taken in. No product feed looks like this; export it again.";
/** Attributes by which a general element says which field it is: `<param name="Color">red</param>`. */
const NAMING = ["name", "key", "code"];

/**
 * Reads the records of an XML document from pushed text: RSS 2.0 items, Atom entries, or any element that is told. Every
 * element and attribute inside a record becomes a column by its local name; nested ones are joined by a dot
 * (`shipping.price`), repeated ones by " | ". An Atom link counts by its href. Columns are added as they are first met, so
 * later rows can be longer than earlier ones.
 */
export class XmlItemReader {
  private readonly growing = new GrowingColumns();
  private readonly parser = new SaxesParser({ xmlns: false });
  private rows: string[][] = [];
  private row: string[] | null = null;
  /** The names that lead to the element being read: inside the record, and above it. */
  private path: string[] = [];
  private outside: string[] = [];
  private depth = 0;
  private itemDepth = 0;
  private text = "";
  /** Elements of the record being read, and characters since the parser last told of anything. */
  private members = 0;
  private unbroken = 0;
  itemsSeen = 0;

  /** The columns met so far. */
  get columns(): string[] {
    return this.growing.names;
  }

  /** @param record the path of the element that is a record, as `recordElements` gives it; null reads items and entries */
  constructor(private readonly record: string | null = null) {
    xmlEntities(this.parser);
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
    this.unbroken += text.length;
    this.parser.write(text);
    if (this.unbroken > LIMITS.unbroken) {
      giveUp("feed-xml-endless", `Something at line ${this.parser.line} of the XML runs on without end.`, REFUSED);
    }
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
        this.record === null
          ? "The XML holds no <item> (RSS), no <entry> (Atom), and no other element that repeats with fields inside."
          : `The XML holds no <${this.record}>.`,
        "Check that this is the product feed and not a sitemap or another XML file.",
      );
    }
  }

  private open(name: string, attributes: Record<string, string>): void {
    this.depth++;
    this.unbroken = 0;
    if (this.depth > LIMITS.depth) {
      giveUp("feed-xml-deep", `The XML nests deeper than ${LIMITS.depth} elements.`, "A product feed is flat.");
    }
    const local = localName(name);
    if (this.row === null) {
      this.outside.push(local);
      if (this.record === null ? !ITEM_ELEMENTS.has(local) : this.outside.join("/") !== this.record) return;
      this.row = [];
      this.members = 0;
      this.itemDepth = this.depth;
      this.itemsSeen++;
      this.putAttributes("", attributes);
      return;
    }
    if (++this.members > LIMITS.members) {
      giveUp("feed-record-large", `Item ${this.itemsSeen} holds more than ${LIMITS.members} elements.`, REFUSED);
    }
    const naming = local === "link" ? undefined : NAMING.find((name) => attributes[name]);
    this.path.push(naming === undefined ? local : `${local}.${attributes[naming]!}`);
    this.text = "";
    if (local === "link" && attributes["href"]) this.put("link", attributes["href"]);
    else this.putAttributes(`${this.path.join(".")}.`, attributes, naming);
  }

  /** @param naming the attribute that is part of the element's name already */
  private putAttributes(before: string, attributes: Record<string, string>, naming?: string): void {
    for (const [name, value] of Object.entries(attributes)) {
      const local = localName(name);
      if (isDeclaration(name) || (before !== "" && HOW_WRITTEN.has(local)) || name === naming || value.trim() === "")
        continue;
      this.put(`${before}${local}`, value.trim());
    }
  }

  private addText(text: string): void {
    if (this.row !== null && this.text.length <= LIMITS.cell) this.text += text;
  }

  private close(): void {
    this.unbroken = 0;
    if (this.row !== null) {
      if (this.depth === this.itemDepth) {
        this.rows.push(...variantRows(this.growing, this.row));
        this.row = null;
        this.path = [];
        this.outside.pop();
      } else {
        const value = this.text.trim();
        if (value !== "") this.put(this.path.join("."), value);
        this.path.pop();
        this.text = "";
      }
    } else this.outside.pop();
    this.depth--;
  }

  private put(column: string, value: string): void {
    this.growing.put(this.row as string[], column, value);
  }
}
