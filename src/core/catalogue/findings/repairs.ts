import type { DerivedField, LookupList, Output } from "../derive/derived-field";
import { field, type Part } from "../../parts/part";
import type { FoundFindings } from "./find";
import type { FindingCode } from "./finding";

/** A repair that can be made with one click. */
export type Repair =
  | { kind: "derived"; label: string; field: DerivedField; list: LookupList | null }
  | { kind: "families"; label: string }
  | { kind: "exclude"; label: string; reason: "out of stock" | "wasteful" }
  | { kind: "teach"; label: string };

const ALL = { match: "all" as const, of: [] };

function output(parts: Part[], steps: Output["steps"] = []): Output {
  return { parts, by: " ", steps };
}

function standIn(field: "title" | "brand" | "category", name: string, rules: DerivedField["rules"]): DerivedField {
  return { key: `${field}-repaired`, name, kind: "text", secondName: "", replaces: field, rules };
}

/** Titles with what several findings ask for; the rules don't get in each other's way. */
function repairedTitle(found: FoundFindings): DerivedField {
  const clean = found["title-markup"] || found["title-hidden"] ? [{ do: "plain-text" as const }] : [];
  const rules: DerivedField["rules"] = [];
  if (found["title-shouting"]) {
    rules.push({
      when: { match: "all", of: [{ field: "title", op: "capitals", value: "" }] },
      then: [output([field("title")], [...clean, { do: "case", to: "title" }])],
    });
  }
  rules.push({ when: ALL, then: [output([field("title")], clean)] });
  return standIn("title", "Title, repaired", rules);
}

/** Most brands that a rule looks for in titles. */
const MOST_BRANDS = 500;

/**
 * The one-click repair of a finding, or null where only the shop can put it right.
 * @param brands the catalogue's brands, most common first
 */
export function repairOf(code: FindingCode, found: FoundFindings, brands: string[]): Repair | null {
  switch (code) {
    case "title-shouting":
    case "title-markup":
    case "title-hidden":
      return { kind: "derived", label: "Derive a clean title", field: repairedTitle(found), list: null };
    case "title-short":
    case "title-same":
      return {
        kind: "derived",
        label: "Derive a fuller title",
        list: null,
        field: {
          ...standIn("title", "Title with what differs", [
            {
              when: ALL,
              then: [output([field("brand"), field("title"), field("color"), field("size")])],
            },
          ]),
          replaces: null,
          key: "title-fuller",
        },
      };
    case "brand-spellings":
    case "category-spellings": {
      const of = code === "brand-spellings" ? "brand" : "category";
      const list = {
        key: `${of}-spellings`,
        name: `Spellings of ${of === "brand" ? "brands" : "categories"}`,
        rows: (found[code]?.spellings ?? []).map(([from, to]): [string, string, string] => [from, to, ""]),
      };
      const steps = [{ do: "look-up" as const, list: list.key, column: 1 as const, missing: "keep" as const }];
      const made = standIn(of, of === "brand" ? "Brand, one spelling" : "Category, one spelling", [
        { when: ALL, then: [output([field(of)], steps)] },
      ]);
      return { kind: "derived", label: "Derive one spelling", field: made, list };
    }
    case "brand-missing": {
      const words = brands.slice(0, MOST_BRANDS).join("\n");
      if (words === "") return null;
      const made = standIn("brand", "Brand, filled", [
        { when: ALL, then: [output([field("brand")])] },
        { when: ALL, then: [output([field("title")], [{ do: "take-listed", words }])] },
      ]);
      return { kind: "derived", label: "Derive it from the title", field: made, list: null };
    }
    case "family-proposed":
      return { kind: "families", label: "Take the proposed families" };
    case "cost-above-price":
      return { kind: "exclude", label: "Exclude them", reason: "wasteful" };
    default:
      return null;
  }
}
