import { describe, expect, it } from "vitest";
import type { Database } from "@/db/client";
import { recall, recallLast, remember } from "./memo";

const database = () => ({}) as Database;

describe("the memo", () => {
  it("makes a thing once for all who ask while it is being made, and for all who ask later", async () => {
    const db = database();
    let made = 0;
    const make = async () => {
      await new Promise((resolve) => setTimeout(resolve, 5));
      return ++made;
    };
    expect(await Promise.all([1, 2, 3].map(() => remember(db, "a", [7, "x"], make)))).toEqual([1, 1, 1]);
    expect(await remember(db, "a", [7, "x"], make)).toBe(1);
  });

  it("makes it anew under every other stamp, name or database", async () => {
    const db = database();
    let made = 0;
    const make = () => ++made;
    const asked = [
      remember(db, "a", [1], make),
      remember(db, "a", [2], make),
      remember(db, "a", ["1"], make),
      remember(db, "a", [1, null], make),
      remember(db, "b", [2], make),
      remember(database(), "a", [2], make),
    ];
    expect(await Promise.all(asked)).toEqual([1, 2, 3, 4, 5, 6]);
  });

  it("keeps as many as it is told, those used last", async () => {
    const db = database();
    const made: number[] = [];
    const ask = (stamp: number) =>
      remember(
        db,
        "window",
        [stamp],
        () => {
          made.push(stamp);
          return stamp;
        },
        2,
      );
    for (const stamp of [1, 2, 1, 3, 1, 2]) expect(await ask(stamp)).toBe(stamp);
    // 2 went when 3 came, since 1 was used after it.
    expect(made).toEqual([1, 2, 3, 2]);
  });

  it("forgets what could not be made, and fails everybody who waited", async () => {
    const db = database();
    let tries = 0;
    const make = () => {
      tries++;
      if (tries === 1) throw new Error("broken");
      return "whole";
    };
    const both = await Promise.allSettled([remember(db, "a", [1], make), remember(db, "a", [1], make)]);
    expect(both.map(({ status }) => status)).toEqual(["rejected", "rejected"]);
    expect(await remember(db, "a", [1], make)).toBe("whole");
    expect(tries).toBe(2);
  });

  it("can be asked what it has", async () => {
    const db = database();
    expect([recall(db, "a", [1]), recallLast(db, "a")]).toEqual([null, null]);
    await remember(db, "a", [1], () => "one");
    await remember(db, "a", [2], () => "two");
    expect(recall(db, "a", [1])).toBeNull();
    expect(await recall(db, "a", [2])).toBe("two");
    expect(await recallLast(db, "a")).toBe("two");
  });
});
