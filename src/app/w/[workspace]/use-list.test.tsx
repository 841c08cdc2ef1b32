// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import fc from "fast-check";
import { NuqsTestingAdapter } from "nuqs/adapters/testing";
import { afterEach, describe, expect, it } from "vitest";
import { useList } from "./use-list";

interface Line {
  key: string;
  name: string;
  cost: number | null;
}

const LINES: Line[] = [
  { key: "a", name: "Garden hose", cost: 30 },
  { key: "b", name: "Hose reel", cost: null },
  { key: "c", name: "Leaf rake", cost: 5 },
  { key: "d", name: "Rain barrel", cost: 70 },
];

function List({ rows }: { rows: Line[] }) {
  const list = useList({
    rows,
    keyOf: ({ key }) => key,
    textOf: ({ name }) => name,
    sorts: { name: ({ name }) => name, cost: ({ cost }) => cost },
    copy: [
      { heading: "name", of: ({ name }) => name },
      { heading: "cost", of: ({ cost }) => cost },
    ],
  });
  return (
    <div>
      <input aria-label="Search" {...list.search} />
      <p aria-label="Found">{list.found.map(({ key }) => key).join(" ")}</p>
      <p aria-label="Picked">{list.picked.map(({ key }) => key).join(" ")}</p>
      <button onClick={() => list.table.onSort("-cost")}>dearest first</button>
      <button onClick={list.clear}>clear</button>
    </div>
  );
}

function show(rows: Line[], search = "") {
  render(<List rows={rows} />, {
    wrapper: ({ children }) => (
      <NuqsTestingAdapter searchParams={search} hasMemory>
        {children}
      </NuqsTestingAdapter>
    ),
  });
}

const text = (label: string) => screen.getByLabelText(label).textContent;

afterEach(cleanup);

describe("a list that is whole in the browser", () => {
  it("is found by all of its words in any order and case, as the address says", () => {
    show(LINES, "?q=HOSE%20g");
    expect(text("Found")).toBe("a");
    cleanup();
    show(LINES, "?q=hose");
    expect(text("Found")).toBe("a b");
    cleanup();
    show(LINES, "?q=spade");
    expect(text("Found")).toBe("");
  });

  it("is sorted either way, what has no value last both times", () => {
    show(LINES, "?sort=cost");
    expect(text("Found")).toBe("c a d b");
    cleanup();
    show(LINES, "?sort=-cost");
    expect(text("Found")).toBe("d a c b");
    cleanup();
    // A sort that nothing has leaves the order as it came.
    show(LINES, "?sort=weight");
    expect(text("Found")).toBe("a b c d");
  });

  it("is sorted as numbers are, whatever stands in it", () => {
    const costArb = fc.option(fc.integer({ min: -1000, max: 1000 }));
    fc.assert(
      fc.property(fc.array(costArb, { minLength: 1, maxLength: 20 }), (costs) => {
        show(
          costs.map((cost, i) => ({ key: String(i), name: "x", cost })),
          "?sort=-cost",
        );
        const found = text("Found")!
          .split(" ")
          .map((key) => costs[Number(key)]!);
        const known = costs.filter((cost) => cost !== null).sort((a, b) => b - a);
        expect(found).toEqual([...known, ...costs.filter((cost) => cost === null)]);
        cleanup();
      }),
      { numRuns: 25 },
    );
  });

  it("is picked by keys: the line one stands on, all that is found, and none", async () => {
    const user = userEvent.setup();
    show(LINES, "?q=hose");
    await user.keyboard("jjx");
    expect(text("Picked")).toBe("b");
    // Past the end one stays on the last, before the start on the first.
    await user.keyboard("jjjkkkx");
    expect(text("Picked")).toBe("a b");
    await user.keyboard("a");
    expect(text("Picked")).toBe("");
    await user.keyboard("a");
    expect(text("Picked")).toBe("a b");
    await user.click(screen.getByRole("button", { name: "clear" }));
    expect(text("Picked")).toBe("");
  });

  it("keeps what is picked when something else is looked for, and types into the search without acting", async () => {
    const user = userEvent.setup();
    show(LINES);
    await user.keyboard("jx/");
    expect(screen.getByLabelText("Search")).toHaveProperty("value", "");
    await user.type(screen.getByLabelText("Search"), "rake x");
    expect(text("Found")).toBe("");
    await user.clear(screen.getByLabelText("Search"));
    await user.type(screen.getByLabelText("Search"), "rake");
    expect(text("Found")).toBe("c");
    expect(text("Picked")).toBe("a");
    await user.click(screen.getByRole("button", { name: "dearest first" }));
    expect(text("Found")).toBe("c");
  });

  it("is copied with its headings: what is picked, else all that is found", async () => {
    const user = userEvent.setup();
    show(LINES, "?sort=cost&q=r");
    await user.keyboard("c");
    expect(await navigator.clipboard.readText()).toBe(
      "name\tcost\nLeaf rake\t5\nGarden hose\t30\nRain barrel\t70\nHose reel\t",
    );
    await user.keyboard("jxc");
    expect(await navigator.clipboard.readText()).toBe("name\tcost\nLeaf rake\t5");
  });
});
