import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { formatDay } from "./days";
import { dateOfDay, dayOfDate, dayWithYear, readTypedDay } from "./typed-day";

describe("a typed day", () => {
  it.each([
    ["2026-10-29", "2026-10-29"],
    ["2026-1-2", "2026-01-02"],
    [" 29  Oct 2026 ", "2026-10-29"],
    ["29. October 2026", "2026-10-29"],
    ["oct 29, 2026", "2026-10-29"],
    ["29.10.2026", "2026-10-29"],
    ["29/10/2026", "2026-10-29"],
    ["10/29/2026", "2026-10-29"],
    ["5/5/2026", "2026-05-05"],
    // Without a year the nearest: from the first of December, January is next year's.
    ["15 Jan", "2027-01-15"],
    ["29.10.", "2026-10-29"],
    ["29 Feb", "2028-02-29"],
  ])("%s is %s", (typed, day) =>
    expect(readTypedDay(typed, typed === "29 Feb" ? "2027-06-01" : "2026-12-01")).toBe(day),
  );

  it.each(["", "soon", "2026-02-30", "31 Jun 2026", "3/4/2026", "29 Foo 2026", "29 Oct 26", "13/13/2026"])(
    "“%s” is none, or could be two",
    (typed) => expect(readTypedDay(typed, "2026-12-01")).toBeNull(),
  );

  it("comes back from how it is shown, and from a calendar, whichever day it is", () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 60_000 }), (number) => {
        const day = formatDay(number);
        expect(readTypedDay(dayWithYear(day), "2026-12-01")).toBe(day);
        expect(dayOfDate(dateOfDay(day))).toBe(day);
      }),
    );
  });
});
