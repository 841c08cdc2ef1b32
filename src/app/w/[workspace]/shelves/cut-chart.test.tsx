// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { histogram } from "@/core/shelves/histogram";
import { CutChart, type CutMark } from "./cut-chart";

afterEach(cleanup);

// 0 to 100 evenly: a place is a hundredth of the value.
const even = Float64Array.from({ length: 1001 }, (_, i) => i / 10);
const bars = { ...histogram(even, new Float64Array(1001)), from: 0, to: 100 };

function show(marks: CutMark[]) {
  return render(<CutChart bars={bars} label="Price" marks={marks} text={(value) => value.toFixed(0)} />);
}

describe("cuts on the distribution", () => {
  it("move by the arrow keys, further with Shift, and no further than the ends", () => {
    const onMove = vi.fn();
    show([{ key: "a", name: "Dear", value: 50, text: "50", onMove }]);
    const handle = screen.getByRole("slider", { name: "Cut of Dear" });
    const moved = (key: string, shiftKey = false) => {
      fireEvent.keyDown(handle, { key, shiftKey });
      return onMove.mock.lastCall?.[0] as number;
    };
    expect(moved("ArrowRight")).toBe(50.5);
    expect(moved("ArrowLeft")).toBe(49.5);
    expect(moved("ArrowUp", true)).toBe(55);
    onMove.mockClear();
    fireEvent.keyDown(handle, { key: "a" });
    expect(onMove).not.toHaveBeenCalled();
    cleanup();
    show([{ key: "a", name: "Dear", value: 99, text: "99", onMove }]);
    fireEvent.keyDown(screen.getByRole("slider"), { key: "ArrowRight", shiftKey: true });
    expect(onMove).toHaveBeenLastCalledWith(100);
  });

  it("follow the pointer while it is held, to a number of three figures, and not when it only passes", () => {
    const onMove = vi.fn();
    const { container } = show([{ key: "a", name: "Dear", value: 50, text: "50", onMove }]);
    const handle = screen.getByRole("slider");
    const box = container.querySelector<HTMLElement>("figure > div")!;
    box.getBoundingClientRect = () => ({ left: 100, width: 1000 }) as DOMRect;
    let isHeld = false;
    handle.setPointerCapture = () => void (isHeld = true);
    handle.hasPointerCapture = () => isHeld;
    // The test's document knows no pointer events; those of a mouse under their names do.
    const pointer = (name: string, clientX: number) =>
      fireEvent(handle, new MouseEvent(name, { bubbles: true, clientX }));
    pointer("pointermove", 400);
    expect(onMove).not.toHaveBeenCalled();
    pointer("pointerdown", 400);
    pointer("pointermove", 433);
    expect(onMove).toHaveBeenLastCalledWith(33.3);
    pointer("pointermove", -50);
    expect(onMove).toHaveBeenLastCalledWith(0);
  });

  it("that follow the catalogue are drawn and not moved; numbers of near ones stand below each other", () => {
    show([
      { key: "a", name: "A", value: 50, text: "fifty", onMove: () => {} },
      { key: "b", name: "B", value: 52, text: "the median" },
      { key: "c", name: "C", value: 80, text: "eighty", onMove: () => {} },
    ]);
    expect(screen.getAllByRole("slider")).toHaveLength(2);
    const rowOf = (text: string) => Number.parseFloat(screen.getByText(text).style.top);
    expect(rowOf("the median")).toBeGreaterThan(rowOf("fifty"));
    expect(rowOf("eighty")).toBe(rowOf("fifty"));
  });
});
