import { plural } from "../../kit/format";
import type { FaultKey, Found } from "../finding";
import type { Material, StockMove } from "../material";
import { listOf, say, verb, type Phrase, type Ref, type RefKind } from "../phrase";
import { isWorthTelling, MONTH, sumOf } from "./lost";

interface Moved {
  fault: FaultKey;
  kind: RefKind;
  /** What the moves are about, in words around the names. */
  says(names: Phrase, moves: readonly StockMove[], about: readonly Ref[]): Phrase;
  money: Found["money"];
}

/** What proposals of a kind say is wrong: the finding, whose mending is the proposals themselves. */
const MOVED: Record<string, Moved> = {
  overlap: {
    ...{ fault: "overlap", kind: "campaign", money: "lost" },
    says: (names, _, about) => say`${names} ${verb(about, "takes", "take")} items that others serve better.`,
  },
  dry: {
    ...{ fault: "dry", kind: "campaign", money: "to gain" },
    says: (names, _, about) => say`${names} ${verb(about, "runs", "run")} out of money while more of it would pay.`,
  },
  waste: {
    ...{ fault: "waste-terms", kind: "term", money: "lost" },
    says: (names, moves) =>
      say`${plural(moves.length, "term or page", "terms and pages")} only cost: ${names}. If they paid, so few orders would be a rare accident.`,
  },
  "no-margin": {
    ...{ fault: "no-margin", kind: "item", money: "lost" },
    says: (names, _, about) =>
      say`${names} ${verb(about, "leaves", "leave")} too little after costs to pay for a click.`,
  },
  starved: {
    ...{ fault: "starved", kind: "target", money: "to gain" },
    says: (names) => say`One target takes all the money and others beside it starve: look at ${names}.`,
  },
  "brand-mix": {
    ...{ fault: "brand-mix", kind: "target", money: "to gain" },
    says: (names) =>
      say`Own brands stand among generic keywords: ${names}. Neither can be judged or steered by itself.`,
  },
  places: {
    ...{ fault: "places", kind: "term", money: "to gain" },
    says: (names, moves) =>
      say`${plural(moves.length, "term or page", "terms and pages")} are worth more or less than the items that stand there, and nothing is aimed at them by name: ${names}.`,
  },
  "target-bids": {
    ...{ fault: "target-bids", kind: "target", money: "to gain" },
    says: (names, moves) =>
      say`${plural(moves.length, "bid")} of keywords and listings lie away from what a click is worth there: ${names}.`,
  },
  "item-bids": {
    ...{ fault: "bids", kind: "item", money: "to gain" },
    says: (names, moves) => say`${plural(moves.length, "bid")} lie away from what a click is worth: ${names}.`,
  },
  slots: {
    ...{ fault: "slots", kind: "campaign", money: "to gain" },
    says: () => say`What slots are paid above and below other clicks lies away from what clicks are worth there.`,
  },
  hours: {
    ...{ fault: "hours", kind: "campaign", money: "to gain" },
    says: () => say`Hours are bid alike that are not worth the same.`,
  },
};

/** What is proposed already, told as what is wrong; each kind of proposal is one finding. */
export function movedFindings(material: Material): Found[] {
  const { moves } = material;
  if (!moves) return [];
  return Object.entries(MOVED).flatMap(([proposer, { fault, kind, says, money }]): Found[] => {
    const own = moves.filter((move) => move.proposer === proposer);
    if (own.length === 0) return [];
    const known = own.flatMap(({ contribution }) => (contribution ? [contribution] : []));
    const sum = sumOf(known);
    const month = known.length > 0 ? { mean: sum.mean * MONTH, low: sum.low * MONTH, high: sum.high * MONTH } : null;
    // Proposals of structure are worth a line whatever they bring.
    if (month && fault !== "starved" && fault !== "brand-mix" && !isWorthTelling(month.mean, material)) return [];
    const weight = (move: StockMove) => move.contribution?.mean ?? 0;
    const about = refsOf(
      [...own].sort((a, b) => weight(b) - weight(a)),
      kind,
    );
    const [clicks, orders, cost] = (["clicks", "orders", "cost"] as const).map((of) =>
      own.reduce((all, move) => all + move[of], 0),
    );
    return [
      {
        ...{ key: fault, fault, about, month, money },
        says: says(listOf(about), own, about),
        stands: { clicks: clicks!, orders: orders!, cost: cost! },
        mend: { by: "moves", proposer, moves: own.length },
      },
    ];
  });
}

/** What moves are about, each once. */
function refsOf(moves: readonly StockMove[], kind: RefKind): Ref[] {
  const refs = new Map<string, Ref>();
  for (const { about, campaign } of moves) {
    const key = kind === "campaign" ? campaign : about;
    // Slots and hours are no campaign, though they are proposed for all.
    if (key !== null && !refs.has(key)) refs.set(key, { kind, key, name: about });
  }
  return [...refs.values()];
}
