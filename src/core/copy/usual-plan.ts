import type { AdLine } from "../account/records/ad-lines";
import { field, text } from "../parts/part";
import { usualNames } from "../planogram/names";
import type { Step } from "../parts/steps";
import { copyPlanSchema, type CopyPlan } from "./copy-plan";
import { BUYING, type Language } from "./languages";

/** What usual lines say around values. */
interface Phrases {
  for: string;
  now: string;
  off: string;
  only: string;
  left: string;
  by: string;
  from: string;
  choice: string;
  upTo: string;
  inStock: string;
  order: string;
}

const PHRASES: Record<Language, Phrases> = {
  en: {
    ...{ for: "For ", now: "Now ", off: "% off", only: "Only ", left: " left", by: " by ", from: "From " },
    ...{ choice: "Choose from ", upTo: "Up to ", inStock: "In stock now", order: " Order online." },
  },
  de: {
    ...{ for: "Für ", now: "Jetzt ", off: " % günstiger", only: "Nur noch ", left: " übrig", by: " von ", from: "Ab " },
    ...{ choice: "Wählen Sie aus ", upTo: "Bis zu ", inStock: "Sofort lieferbar", order: " Online bestellen." },
  },
  fr: {
    ...{
      for: "Pour ",
      now: "Prix actuel ",
      off: " % de moins",
      only: "Plus que ",
      left: " en stock",
      by: " de ",
      from: "Dès ",
    },
    ...{ choice: "Choisissez parmi ", upTo: "Jusqu’à ", inStock: "Disponible", order: " Commandez en ligne." },
  },
  es: {
    ...{ for: "Por ", now: "Ahora ", off: " % menos", only: "Solo quedan ", left: "", by: " de ", from: "Desde " },
    ...{ choice: "Elige entre ", upTo: "Hasta ", inStock: "En stock", order: " Pide en línea." },
  },
  it: {
    ...{ for: "A ", now: "Ora ", off: " % in meno", only: "Ne restano ", left: "", by: " di ", from: "Da " },
    ...{ choice: "Scegli tra ", upTo: "Fino a ", inStock: "Disponibile", order: " Ordina online." },
  },
  nl: {
    ...{ for: "Voor ", now: "Nu ", off: " % korting", only: "Nog ", left: " over", by: " van ", from: "Vanaf " },
    ...{ choice: "Kies uit ", upTo: "Tot ", inStock: "Op voorraad", order: " Bestel online." },
  },
};

const kind = (...steps: Step[]) => field("copy:kind", ...steps);

/** The lines of the usual ad: from what says most to what always fits. */
function usualLines(language: Language, has: (field: string) => boolean) {
  const say = PHRASES[language];
  const [title, brand, price] = [field("title"), field("brand"), field("copy:price")];
  // Within a sentence; in German nouns keep their capital.
  const inner = language === "de" ? kind() : kind({ do: "case", to: "lower" });
  const lowest = field("copy:lowest-price");
  const several = field("copy:items", { do: "within", from: 2, to: null });
  const line = (list: "headlines" | "descriptions" | "address", rungs: AdLine[], more = {}) => ({
    list,
    rungs,
    ...more,
  });
  const off: AdLine[] = has("salePrice")
    ? [
        [field("copy:share-off"), text(`${say.off}, ${say.now.toLowerCase()}`), price],
        [field("copy:share-off"), text(say.off)],
      ]
    : [];
  return [
    line(
      "headlines",
      [
        [title],
        [field("title", { do: "shorten", most: 36 })],
        [field("copy:product")],
        [brand, text(" "), kind()],
        [kind()],
      ],
      { cut: true, always: true },
    ),
    line("headlines", [
      [brand, text(" "), kind()],
      [text(say.choice), several, text(" "), inner],
      [field("copy:brands")],
    ]),
    line("headlines", [
      ...off,
      [text(say.now), price],
      [kind(), text(` ${say.from.toLowerCase()}`), lowest],
      [text(say.from), lowest],
    ]),
    ...(has("salePrice")
      ? [
          line("headlines", [
            [text(say.upTo), field("copy:largest-share-off", { do: "within", from: 5, to: null }), text(say.off)],
          ]),
        ]
      : []),
    ...(has("stock")
      ? [
          line("headlines", [
            [text(say.only), field("copy:stock", { do: "within", from: 1, to: 5 }), text(say.left)],
            [text(say.inStock)],
          ]),
        ]
      : [line("headlines", [[text(say.inStock)]])]),
    line("headlines", [[kind(), text(" – "), text(say.inStock.toLowerCase())]]),
    line("headlines", [[field("copy:styles")]]),
    line("headlines", [[field("copy:brands")]]),
    line("descriptions", [
      [title, text(", "), text(say.now.toLowerCase()), price, text(`.${say.order}`)],
      [title, text(`.${say.order}`)],
      [field("copy:product"), text(`.${say.order}`)],
      [kind(), text(say.by), brand, text(`.${say.order}`)],
      [
        field("copy:styles"),
        text(" – "),
        text(say.choice.toLowerCase()),
        several,
        text(" "),
        inner,
        text(`.${say.order}`),
      ],
      [text(say.choice), several, text(" "), inner, text(`.${say.order}`)],
      [kind(), text(`.${say.order}`)],
    ]),
    ...(has("description")
      ? [line("descriptions", [[field("description", { do: "plain-text" })]], { cut: true })]
      : []),
    line("descriptions", [
      [kind(), text(say.by), brand, text(`. ${say.inStock}.`)],
      [kind(), text(say.by), field("copy:brands"), text(`. ${say.inStock}.`)],
      [kind(), text(`. ${say.inStock}.`)],
    ]),
    line("address", [[kind({ do: "case", to: "lower" })]], { cut: true }),
  ];
}

export interface UsualSettings {
  key: string;
  name: string;
  language: Language;
  /** Whether enough items have a value in a field. */
  has: (field: string) => boolean;
  /** Mills a day and a click. */
  totalBudget: number;
  startingBid: number;
  goal: number | null;
}

/**
 * A copy plan to begin with: an ad group for each kind of thing, in a campaign a department, lines from what is most particular to
 * what all have, keywords from fields and titles. In worlds of the test market ad groups by kind bring more than those by brand or
 * by item (docs/copy.md): single items are hardly ever searched for by name.
 */
export function usualPlan({ key, name, language, has, totalBudget, startingBid, goal }: UsualSettings): CopyPlan {
  const [first] = BUYING[language];
  const campaignsBy = has("category1") ? ["category1"] : [];
  const groupsBy = [has("category") ? "category" : "id"];
  const ladder = [...campaignsBy, ...groupsBy].map((by) => ({ by }));
  const patterns: AdLine[] = [
    [field("brand"), text(" "), kind()],
    ...["color", "size"].filter(has).map((attribute): AdLine => [field(attribute), text(" "), kind()]),
    [kind()],
  ];
  return copyPlanSchema.parse({
    ...{ key, name, language, leftOut: [], inStockOnly: true },
    campaignsBy,
    groupsBy,
    campaignName: has("category1") ? [text("Text · "), field("level-1")] : [text("Text · "), field("planogram")],
    adGroupName: usualNames(campaignsBy.length, ladder.length, ladder).adGroupName,
    ads: [{ key: "ad-1", name: "Ad 1", place: 1, lines: usualLines(language, has) }],
    keywords: {
      ...{ patterns, fromTitles: true, titleWords: { least: 2, most: 4 }, buyWords: first ? [first] : [], never: [] },
      matches: [
        { match: "exact", step: 0 },
        { match: "phrase", step: -0.2 },
      ],
      ...{ most: 8, keeper: "sales", apart: true },
    },
    ...{ banned: [], sameOnMost: 25, purpose: "scale", totalBudget, shareBy: "items", startingBid, goal },
    ...{ bidBy: goal === null ? "same" : "worth", serveOrder: 5 },
  });
}
