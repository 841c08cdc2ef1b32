// @vitest-environment jsdom
import { render, screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { DayStrip } from "./day-strip";

const DAYS = [
  { day: "2026-10-01", cost: 10_000, revenue: 40_000 },
  { day: "2026-10-02", cost: 5_000, revenue: 0 },
  { day: "2026-10-03", cost: null, revenue: 6_000 },
];

describe("a strip of days", () => {
  it("stands sales on the edge and hangs spend from it, on one scale, with the goal as marks over days with spend", () => {
    render(<DayStrip days={DAYS} goal={3} currency="EUR" incompleteDays={1} />);
    const svg = screen.getByRole("img", { name: "1 Oct to 3 Oct: spend €15.00, sales €46.00" });
    // 40 of sales above is the most of sales and of spend × goal; 10 of spend the most below.
    expect(svg.getAttribute("viewBox")).toBe("0 -40000 30 50000");
    const heights = [...svg.querySelectorAll("g")].map((day) =>
      [...day.querySelectorAll("rect")].slice(1).map((bar) => [bar.getAttribute("y"), bar.getAttribute("height")]),
    );
    expect(heights).toEqual([
      [
        ["-40000", "40000"],
        ["0", "10000"],
      ],
      [
        ["0", "0"],
        ["0", "5000"],
      ],
      [
        ["-6000", "6000"],
        ["0", "0"],
      ],
    ]);
    const marks = [...svg.querySelectorAll("path")].at(-1)!.getAttribute("d");
    expect(marks).toBe("M0 -30000h10M10 -15000h10");
    expect([...svg.querySelectorAll("title")].at(-1)!.textContent).toBe("3 Oct: spend not reported, sales €6.00");
  });
});
