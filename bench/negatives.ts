import { indexTerms, replayNegatives, type PastTerms, type ThoughtOf } from "@/core/exclusions/replay";
import { randomFrom } from "@/core/kit/random";
import { comparedWords, matches } from "@/core/channel/matching";
import { figure, timed, type Figure } from "./measure";

const TERMS = 200_000;
const WORDS = 6_000;

/** Past terms of two to five words, a line each, the common words common. */
function makePast(): PastTerms {
  const random = randomFrom("bench-terms");
  const word = () => `w${Math.floor(WORDS * random() * random())}x`;
  const labels = Array.from({ length: TERMS }, (_, i) =>
    [...Array.from({ length: 2 + Math.floor(3 * random()) }, word), `n${i % 977}`].join(" "),
  );
  const one = Float64Array.from(labels, () => 1);
  return {
    labels,
    term: Uint32Array.from(labels.keys()),
    campaign: labels.map(() => "c"),
    adGroup: labels.map(() => "g"),
    target: labels.map(() => "t"),
    sums: { impressions: one, clicks: one, cost: one, orders: one, revenue: one },
  };
}

/** What negatives would have stopped: one against 200,000 past terms beside trying every term, and 10,000 at once. */
export async function benchNegatives(): Promise<Figure[]> {
  const past = makePast();
  const index = indexTerms(past.labels);
  const phrase = past.labels[7]!.split(" ").slice(0, 2).join(" ");
  const one: ThoughtOf[] = [{ what: "term", match: "phrase", value: phrase, scope: null }];
  const many = past.labels
    .slice(0, 10_000)
    .map((value): ThoughtOf => ({ what: "term", match: "exact", value, scope: null }));
  const words = comparedWords(phrase);
  const plain = await timed(
    3,
    () => past.labels.filter((label) => matches(words, comparedWords(label), "phrase")).length,
  );
  const replay = await timed(5, () => replayNegatives(one, past, index));
  const indexed = await timed(3, () => indexTerms(past.labels));
  const bulk = await timed(3, () => replayNegatives(many, past, index));
  return [
    figure("replay of a negative", "200k terms", replay, "every term tried", plain, "< 100 ms"),
    figure("index of past terms, once", "200k terms", indexed, "every term tried", plain, "–"),
    figure("replay of 10,000 negatives", "200k terms", bulk, "one negative, every term tried", plain, "< 1 s"),
  ];
}
