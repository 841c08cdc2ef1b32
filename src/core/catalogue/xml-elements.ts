import { SaxesParser } from "saxes";
import { xmlEntities } from "./xml-entities";

/** An element of an XML document that may be the record: where it stands, how often, and how much it holds. */
export interface ElementCount {
  /** Local names from the root down, joined by "/". */
  path: string;
  count: number;
  /** Different attributes and child elements that hold text. */
  fields: number;
}

/** Elements that are records by name in open standards: RSS 2.0 and Atom. */
export const ITEM_ELEMENTS: ReadonlySet<string> = new Set(["item", "entry"]);

/** Strips a namespace prefix: `g:price` is `price`. */
export function localName(name: string): string {
  return name.slice(name.indexOf(":") + 1);
}

/** A namespace is declared by an attribute that says nothing about the element. */
export function isDeclaration(name: string): boolean {
  return name === "xmlns" || name.startsWith("xmlns:") || name.startsWith("xml:");
}

/**
 * Finds the elements that can be the records of a document, from its beginning: those that hold two fields or more. An
 * element inside another that stands more than once is a part of it and no record. The likeliest comes first: `item` and
 * `entry`, then the one that holds most.
 */
export function recordElements(sample: string): ElementCount[] {
  const counts = new Map<string, { count: number; fields: Set<string> }>();
  const path: string[] = [];
  const hasText: boolean[] = [];
  const parser = new SaxesParser({ xmlns: false });
  xmlEntities(parser);
  const of = (at: string) => {
    let found = counts.get(at);
    if (!found) counts.set(at, (found = { count: 0, fields: new Set() }));
    return found;
  };
  parser.on("opentag", ({ name, attributes }) => {
    path.push(localName(name));
    hasText.push(false);
    const element = of(path.join("/"));
    element.count++;
    for (const attribute of Object.keys(attributes)) if (!isDeclaration(attribute)) element.fields.add(`@${attribute}`);
  });
  const text = (piece: string) => {
    if (piece.trim() !== "" && hasText.length > 0) hasText[hasText.length - 1] = true;
  };
  parser.on("text", text);
  parser.on("cdata", text);
  parser.on("closetag", () => {
    if (hasText.pop()) of(path.slice(0, -1).join("/")).fields.add(path.at(-1)!);
    path.pop();
  });
  // The sample ends in the middle, or the document is broken; reading it says where.
  parser.on("error", () => {});
  parser.write(sample);
  const all = [...counts].filter(([at, { fields }]) => at !== "" && fields.size >= 2);
  const named = (at: string) => ITEM_ELEMENTS.has(at.slice(at.lastIndexOf("/") + 1));
  const repeated = all.filter(([, { count }]) => count > 1).map(([at]) => at);
  return all
    .filter(([at]) => at.includes("/") && !repeated.some((outer) => at.startsWith(`${outer}/`)))
    .map(([at, { count, fields }]) => ({ path: at, count, fields: fields.size }))
    .sort((a, b) => Number(named(b.path)) - Number(named(a.path)) || b.count * b.fields - a.count * a.fields);
}
