// @vitest-environment jsdom
import { cleanup, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import fc from "fast-check";
import { useState } from "react";
import { afterEach, beforeAll, describe, expect, it, vi } from "vitest";
import { HEATS, type Heat } from "@/core/evidence/heat";
import { BalanceBar, Gap } from "./balance-bar";
import { DataTable, type TableColumn } from "./data-table";
import { Dialog } from "./dialog";
import { EvidenceMark, evidenceWords } from "./evidence-bar";
import { HeatMark } from "./heat";
import { Plank } from "./plank";
import { useKeys } from "./use-keys";
import { useUnfolded } from "./use-unfolded";
import { stubSizes } from "./no-layout.testing";

const VIEW_HEIGHT = 360;
const ROW_HEIGHT = 36;

beforeAll(() => {
  // There is no layout here: every element is as large as the table's view.
  for (const side of ["offsetHeight", "offsetWidth", "clientHeight"] as const) {
    Object.defineProperty(HTMLElement.prototype, side, { configurable: true, get: () => VIEW_HEIGHT });
  }
  Object.defineProperty(HTMLElement.prototype, "scrollHeight", { configurable: true, get: () => 100_000 * ROW_HEIGHT });
  HTMLElement.prototype.scrollTo = function (this: HTMLElement, options?: unknown) {
    this.scrollTop = (options as ScrollToOptions).top ?? 0;
    this.dispatchEvent(new Event("scroll"));
  } as typeof HTMLElement.prototype.scrollTo;
  stubSizes();
});

afterEach(cleanup);

interface Line {
  id: string;
  spend: number;
}

const COLUMNS: TableColumn<Line>[] = [
  { key: "id", label: "Item", width: "1fr", sort: "id", cell: ({ id }) => id },
  { key: "spend", label: "Spend", width: 90, align: "right", sort: "cost", cell: ({ spend }) => `€${spend}` },
  { key: "note", label: "Note", width: 90, cell: () => "–" },
];

const lineAt = (index: number): Line => ({ id: `Q${index}`, spend: index });

describe("a table", () => {
  it("keeps what is open in a cell when it is drawn anew with other columns", async () => {
    function Opened() {
      const [isOpen, setOpen] = useState(false);
      return <button onClick={() => setOpen(true)}>{isOpen ? "open" : "closed"}</button>;
    }
    const drawn = () => (
      <DataTable
        label="Items"
        columns={[{ key: "name", label: "Name", width: 100, cell: () => <Opened /> }]}
        total={1}
        rowAt={lineAt}
        keyOf={({ id }) => id}
      />
    );
    const { rerender } = render(drawn());
    await userEvent.click(screen.getByText("closed"));
    rerender(drawn());
    expect(screen.getByText("open")).toBeTruthy();
  });

  const table = (more: Partial<Parameters<typeof DataTable<Line>>[0]> = {}) => (
    <DataTable label="Items" columns={COLUMNS} total={100_000} rowAt={lineAt} keyOf={({ id }) => id} {...more} />
  );

  it("of 100,000 rows holds only those in sight, and tells their number and places", () => {
    const onRange = vi.fn();
    render(table({ onRange }));
    const rows = screen.getAllByRole("row");
    expect(rows.length).toBeLessThan(40);
    expect(rows.length).toBeGreaterThan(VIEW_HEIGHT / ROW_HEIGHT);
    expect(screen.getByRole("table", { name: "Items" }).getAttribute("aria-rowcount")).toBe("100001");
    // The heading is row 1, the first item row 2.
    expect(rows[1]!.getAttribute("aria-rowindex")).toBe("2");
    expect(
      within(rows[1]!)
        .getAllByRole("cell")
        .map((cell) => cell.textContent),
    ).toEqual(["Q0", "€0", "–"]);
    const [first, last] = onRange.mock.lastCall as [number, number];
    expect([first, last >= 9, last < 40]).toEqual([0, true, true]);
  });

  it("says of rows that are still loading that they are, and can't select them", () => {
    render(table({ rowAt: () => undefined, selected: new Set(), onToggle: vi.fn() }));
    const [, row] = screen.getAllByRole("row");
    expect(within(row!).getAllByRole("cell")[1]!.textContent).toBe("…");
    expect((within(row!).getByRole("checkbox") as HTMLInputElement).disabled).toBe(true);
  });

  it("sorts falling first, then rising, then not at all, and says how in words", async () => {
    const user = userEvent.setup();
    const asked: string[] = [];
    function Sorted() {
      const [sort, setSort] = useState("");
      return table({
        sort,
        onSort: (next) => {
          asked.push(next);
          setSort(next);
        },
      });
    }
    render(<Sorted />);
    const heading = () => screen.getByRole("columnheader", { name: /Spend/ });
    const states: (string | null)[] = [];
    for (let i = 0; i < 3; i++) {
      await user.click(within(heading()).getByRole("button"));
      states.push(heading().getAttribute("aria-sort"));
    }
    expect(asked).toEqual(["-cost", "cost", ""]);
    expect(states).toEqual(["descending", "ascending", null]);
    // A column without an order offers none.
    expect(within(screen.getByRole("columnheader", { name: "Note" })).queryByRole("button")).toBeNull();
  });

  it("selects by its box without opening the row, and opens by the rest of it", async () => {
    const user = userEvent.setup();
    const onOpen = vi.fn();
    const onToggle = vi.fn();
    render(table({ selected: new Set(["Q1"]), onToggle, onOpen }));
    const [, first, second] = screen.getAllByRole("row");
    expect([first, second].map((row) => row!.getAttribute("aria-selected"))).toEqual(["false", "true"]);
    await user.click(within(first!).getByRole("checkbox", { name: "Select row 1" }));
    expect([onToggle.mock.calls, onOpen.mock.calls]).toEqual([[["Q0"]], []]);
    await user.click(within(first!).getByText("€0"));
    expect(onOpen).toHaveBeenCalledWith(lineAt(0));
  });

  it("brings the row that the keyboard stands on into sight", () => {
    const onRange = vi.fn();
    const { rerender } = render(table({ cursor: 0, onRange }));
    rerender(table({ cursor: 5000, onRange }));
    rerender(table({ cursor: 5000, onRange }));
    const [first, last] = onRange.mock.lastCall as [number, number];
    expect(first).toBeLessThanOrEqual(5000);
    expect(last).toBeGreaterThanOrEqual(5000);
    expect(first).toBeGreaterThan(4900);
  });

  it("without rows shows what stands in their place", () => {
    render(table({ total: 0, empty: <p>No item matches</p> }));
    expect(screen.getByText("No item matches")).toBeTruthy();
    expect(screen.getAllByRole("row").length).toBe(1);
  });
});

/** Per cent in a style such as `left: 25%`. */
const percent = (text: string) => Number(/([\d.]+)%/.exec(text)![1]);

describe("the evidence bar", () => {
  it("draws estimate, interval and goal in their order, and never beyond its ends", () => {
    const amount = fc.integer({ min: 0, max: 5000 }).map((hundredths) => hundredths / 100);
    fc.assert(
      fc.property(
        fc.tuple(amount, amount, amount),
        fc.integer({ min: 10, max: 2000 }).map((hundredths) => hundredths / 100),
        (list, goal) => {
          const [low, mean, high] = list.toSorted((a, b) => a - b) as [number, number, number];
          const { container } = render(<EvidenceMark {...{ mean, low, high, goal }} />);
          const [, band, dot, mark] = [...container.firstElementChild!.children] as HTMLElement[];
          const at = {
            low: percent(band!.style.left),
            high: percent(band!.style.left) + percent(band!.style.width) + 1e-6,
            mean: percent(dot!.style.left),
            goal: percent(mark!.style.left),
          };
          cleanup();
          for (const place of Object.values(at)) expect(place).toBeLessThanOrEqual(100.001);
          expect(at.low).toBeLessThanOrEqual(at.mean);
          expect(at.mean).toBeLessThanOrEqual(at.high);
          const values = { low, high, mean, goal };
          for (const a of ["low", "mean", "high"] as const) {
            if (values[a] < goal) expect(at[a]).toBeLessThanOrEqual(at.goal + 1e-5);
            else expect(at[a]).toBeGreaterThanOrEqual(at.goal - 1e-6);
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  it("says the same in words", () => {
    render(<EvidenceMark mean={2.5} low={1} high={4} goal={3.5} />);
    expect(screen.getByRole("img").getAttribute("aria-label")).toBe(
      "About 2.50, 80 % likely between 1.00 and 4.00; goal 3.50",
    );
    expect(evidenceWords({ mean: 0, low: 0, high: 0, goal: 3 })).not.toMatch(/NaN|Infinity/);
  });
});

describe("balance bars", () => {
  it("grow with their shares on one scale, and show nothing for what is not known", () => {
    const widths = (spend: number | null, sales: number | null) => {
      const { container } = render(<BalanceBar spendShare={spend} salesShare={sales} scale={0.5} />);
      const bars = [...container.querySelectorAll<HTMLElement>("[style]")].map(({ style }) => percent(style.width));
      cleanup();
      return bars;
    };
    expect(widths(0.25, 0.1)).toEqual([50, 20]);
    expect(widths(0.9, null)).toEqual([100, 0]);
  });

  it("mark a line that takes more than it brings, and leave tiny differences alone", () => {
    const text = (gap: number | null) => {
      const { container } = render(<Gap gap={gap} />);
      const found = container.textContent;
      cleanup();
      return found;
    };
    expect(text(-0.12)).toMatch(/^▾ /);
    expect(text(-0.001)).not.toMatch(/▾/);
    expect(text(0.12)).not.toMatch(/▾/);
    expect(text(null)).toBe("–");
  });
});

describe("heat", () => {
  it.each(HEATS.map((heat, step): [Heat, number] => [heat, step + 1]))(
    "%s is said in a word and drawn in bars",
    (heat, step) => {
      const { container } = render(<HeatMark heat={heat} />);
      expect(container.textContent).toBe(heat);
      const filled = [...container.querySelectorAll("[aria-hidden] > span")].filter(
        ({ className }) => !/bg-line/.test(className),
      );
      expect(filled.length).toBe(heat === "unread" ? 0 : step);
    },
  );
});

describe("a plank", () => {
  it("draws blocks by spend and sales on the scales of its view, and never thinner than can be seen", () => {
    const blocks = [
      { id: "a", title: "A", cost: 50_000, revenue: 400_000, heat: "warm" as const },
      { id: "b", title: "B", cost: 25_000, revenue: 100_000, heat: "cold" as const },
      { id: "c", title: "C", cost: 0, revenue: 0, heat: "unread" as const },
    ];
    const { container } = render(
      <Plank
        blocks={blocks}
        more={2}
        widest={100_000}
        tallest={400_000}
        label="Warm"
        describe={({ title }) => title}
      />,
    );
    const drawn = ["A", "B", "C"].map((title) => container.querySelector<HTMLElement>(`[title="${title}"]`)!.style);
    const [a, b, c] = drawn.map(({ width, height }) => [percent(width), Number.parseFloat(height)] as const);
    expect(a![0]).toBeCloseTo(2 * b![0]);
    // Heights are on a root scale: a quarter of the sales is half the height.
    expect(a![1]).toBeCloseTo(2 * b![1]);
    expect([c![0], c![1]]).toEqual([0, 3]);
    expect(screen.getByTitle("2 more, each with little or no spend")).toBeTruthy();
  });
});

describe("keys", () => {
  function Keys({ onKey }: { onKey: (key: string) => void }) {
    useKeys({ j: () => onKey("j"), Enter: () => onKey("Enter"), "/": () => onKey("/") });
    return (
      <>
        <input aria-label="Search" />
        <button type="button">Press</button>
        <p tabIndex={0}>Text</p>
      </>
    );
  }

  it("work anywhere but where a person types, with modifiers, or on what Enter would press", async () => {
    const user = userEvent.setup();
    const told: string[] = [];
    render(<Keys onKey={(key) => told.push(key)} />);
    await user.click(screen.getByText("Text"));
    await user.keyboard("j/{Enter}{Control>}j{/Control}");
    expect(told).toEqual(["j", "/", "Enter"]);
    await user.click(screen.getByRole("textbox"));
    await user.keyboard("j/{Enter}");
    screen.getByRole("button").focus();
    await user.keyboard("{Enter}");
    expect(told).toEqual(["j", "/", "Enter"]);
  });

  it("rest while a dialog is open, which Escape closes", async () => {
    const user = userEvent.setup();
    const told: string[] = [];
    const onClose = vi.fn();
    render(
      <>
        <Keys onKey={(key) => told.push(key)} />
        <Dialog open title="Bid" onClose={onClose}>
          <button type="button">Put into the basket</button>
        </Dialog>
      </>,
    );
    (await screen.findByRole("button", { name: "Put into the basket" })).focus();
    await user.keyboard("j");
    expect(told).toEqual([]);
    await user.keyboard("{Escape}");
    expect(onClose).toHaveBeenCalled();
  });
});

describe("a tree's folds", () => {
  function Tree() {
    const { open, turn, turnAll } = useUnfolded();
    return (
      <>
        <output>{[...open].sort().join(" ")}</output>
        <button onClick={() => turn("a")}>a</button>
        <button onClick={() => turnAll(["a", "b", "c"])}>all</button>
      </>
    );
  }

  it("turn one by one, and all at once: folded where one was unfolded, else unfolded", async () => {
    const user = userEvent.setup();
    render(<Tree />);
    const seen = () => screen.getByRole("status").textContent;
    const press = (name: string) => user.click(screen.getByRole("button", { name }));
    await press("all");
    expect(seen()).toBe("a b c");
    await press("a");
    expect(seen()).toBe("b c");
    await press("all");
    expect(seen()).toBe("");
    await press("a");
    await press("all");
    expect(seen()).toBe("");
  });
});
