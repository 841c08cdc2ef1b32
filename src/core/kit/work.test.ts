import { createHash } from "node:crypto";
import { expect, it } from "vitest";
import { findAnswer, isDone } from "./work";

/** How many bits a hash begins with that are nought, counted another way. */
function noughts(challenge: string, answer: number): number {
  const number = Buffer.alloc(8);
  number.writeDoubleBE(answer);
  const hash = createHash("sha256")
    .update(Buffer.concat([createHash("sha256").update(challenge).digest(), number]))
    .digest();
  const bits = [...hash].map((byte) => byte.toString(2).padStart(8, "0")).join("");
  return bits.indexOf("1");
}

it("finds the first number whose hash begins with so many noughts, and knows it again", () => {
  for (const challenge of ["a", "another one", "ü"]) {
    const bits = 11;
    const answer = findAnswer({ challenge, bits }, 0, 200_000)!;
    expect(noughts(challenge, answer)).toBeGreaterThanOrEqual(bits);
    for (let earlier = 0; earlier < answer; earlier++) expect(noughts(challenge, earlier)).toBeLessThan(bits);
    expect(isDone({ challenge, bits }, answer)).toBe(true);
    expect(isDone({ challenge: `${challenge} `, bits }, answer)).toBe(noughts(`${challenge} `, answer) >= bits);
    expect(isDone({ challenge, bits: noughts(challenge, answer) + 1 }, answer)).toBe(false);
  }
});

it("takes whole numbers from nought on only", () => {
  for (const answer of [-1, 0.5, NaN, Infinity, 2 ** 60])
    expect(isDone({ challenge: "a", bits: 0 }, answer)).toBe(false);
  expect(findAnswer({ challenge: "a", bits: 200 }, 0, 50)).toBeNull();
});
