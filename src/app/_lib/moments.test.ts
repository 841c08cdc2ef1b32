import { describe, expect, it } from "vitest";
import { formatMoment } from "@/core/kit/format";
import { momentIn } from "./moments";

describe("a moment of the workspace's clock", () => {
  it.each([
    ["2026-11-30T06:00", "Europe/Berlin", "2026-11-30T05:00:00Z"],
    ["2026-07-01T06:00", "Europe/Berlin", "2026-07-01T04:00:00Z"],
    ["2026-11-30T06:00", "America/New_York", "2026-11-30T11:00:00Z"],
    ["2026-11-30T06:00", "UTC", "2026-11-30T06:00:00Z"],
  ])("%s in %s is %s, whatever the computer's own clock says", (text, zone, moment) => {
    expect(momentIn(text, zone)).toBe(Date.parse(moment));
    expect(formatMoment(momentIn(text, zone), zone)).toContain("06:00");
  });

  it("that is none is no number", () => expect(momentIn("", "UTC")).toBeNaN());
});
