import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { NEVER_SEEN, WHY } from "./assign";
import { codesFor, decodeMoves, encodeMoves, joinMoves, movesBetween, takeBack, type Moves } from "./moves";

type Standing = Map<number, number>;
const standing = fc.uniqueArray(fc.tuple(fc.integer({ min: 1, max: 30 }), fc.integer({ min: 0, max: 4 })), {
  selector: ([no]) => no,
  maxLength: 20,
});
const members = (pairs: [number, number][]) => ({
  item: pairs.map(([no]) => no),
  shelf: pairs.map(([, code]) => code),
  why: pairs.map(() => WHY.clear),
});
const sorted = (map: Standing) => [...map].sort(([a], [b]) => a - b);

describe("moves", () => {
  it("lead back from how a set stands to how it stood, through bytes, over any number of recomputes", () => {
    fc.assert(
      fc.property(fc.array(standing, { minLength: 2, maxLength: 5 }), (rounds) => {
        const all: Moves[] = [];
        for (let i = 1; i < rounds.length; i++) {
          const moves = movesBetween(members(rounds[i - 1]!), members(rounds[i]!), null);
          all.push(decodeMoves(encodeMoves(moves)));
        }
        const now: Standing = new Map(rounds.at(-1)!);
        for (const moves of all.toReversed()) takeBack(now, moves);
        expect(sorted(now)).toEqual(sorted(new Map(rounds[0]!)));
        // Joined, each item is told once, from where it first was to where it came; those that came back are left out.
        const joined = joinMoves(all);
        const [first, last] = [new Map(rounds[0]!), new Map(rounds.at(-1)!)];
        const changed = [...new Set([...first.keys(), ...last.keys()])].filter((no) => first.get(no) !== last.get(no));
        expect([...joined.item].sort((a, b) => a - b)).toEqual(changed.sort((a, b) => a - b));
        joined.item.forEach((no, at) => {
          expect([joined.from[at], joined.to[at]]).toEqual([first.get(no) ?? NEVER_SEEN, last.get(no) ?? NEVER_SEEN]);
        });
      }),
    );
  });

  it("say why: past the cut, changed by hand, first seen, gone", () => {
    const after = { item: [1, 2, 3], shelf: [1, 1, 1], why: [WHY.patience, 0, 0] };
    const moves = movesBetween({ item: [1, 2, 9], shelf: [0, 1, 2] }, after, [4.5, 1, 2]);
    expect([...moves.item]).toEqual([1, 3, 9]);
    expect([...moves.why]).toEqual([WHY.patience, WHY.arrived, WHY.left]);
    expect([...moves.value]).toEqual([4.5, 2, NaN]);
    expect([...movesBetween({ item: [1], shelf: [0] }, after, null, WHY.edited).why]).toEqual([
      WHY.edited,
      WHY.arrived,
      WHY.arrived,
    ]);
  });

  it("know shelves by codes that stay when they are put in another order or given up", () => {
    const first = codesFor(["a", "b", "rest"], {});
    expect(first).toEqual({ a: 0, b: 1, rest: 2 });
    expect(codesFor(["rest", "c", "a"], first)).toEqual({ a: 0, b: 1, rest: 2, c: 3 });
    // A set that was made over hundreds of times never runs out, and what stands in it keeps its codes.
    let codes = first;
    for (let i = 0; i < 600; i++) codes = codesFor(["rest", `new-${i}`], codes);
    expect(codes["rest"]).toBe(2);
    expect(Math.max(...Object.values(codes))).toBeLessThan(250);
    expect(new Set(Object.values(codes)).size).toBe(Object.keys(codes).length);
  });
});
