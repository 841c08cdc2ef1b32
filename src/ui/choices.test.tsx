// @vitest-environment jsdom
import { cleanup, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeAll, describe, expect, it, vi } from "vitest";
import { ChoiceSelect } from "./field";
import { SearchSelect } from "./search-select";
import { stubSizes } from "./no-layout.testing";

// The list that is searched follows its box's size; there is no layout here.
beforeAll(stubSizes);
afterEach(cleanup);

const STOCKS: Record<"out" | "in", string> = { out: "left out", in: "served too" };

describe("a choice", () => {
  it("shows labels, tells values, and takes values that are their own labels", async () => {
    const user = userEvent.setup();
    const onChange = vi.fn();
    const { rerender } = render(
      <ChoiceSelect aria-label="Sold out" choices={STOCKS} value="out" onChange={onChange} />,
    );
    const box = screen.getByRole("combobox", { name: "Sold out" });
    expect(
      within(box)
        .getAllByRole("option")
        .map(({ textContent }) => textContent),
    ).toEqual(["left out", "served too"]);
    await user.selectOptions(box, "served too");
    expect(onChange).toHaveBeenCalledWith("in");
    rerender(<ChoiceSelect aria-label="Why" choices={["unsafe", "wasteful"]} value="wasteful" onChange={onChange} />);
    expect(screen.getByRole("combobox", { name: "Why" })).toHaveProperty("value", "wasteful");
    await user.selectOptions(screen.getByRole("combobox"), "unsafe");
    expect(onChange).toHaveBeenLastCalledWith("unsafe");
  });
});

describe("a choice that is searched", () => {
  const CHOICES = [
    { value: "category1", label: "Category, level 1" },
    { value: "derived:season", label: "Season" },
  ];

  it("takes what is typed in place of what it shows, also where that gets its label while somebody stands in it", async () => {
    const user = userEvent.setup();
    const onChange = vi.fn();
    const select = (choices: typeof CHOICES) => (
      <SearchSelect label="Field" value="category1" choices={choices} onChange={onChange} />
    );
    const { rerender } = render(select([]));
    const box = screen.getByRole<HTMLInputElement>("combobox", { name: "Field" });
    await user.click(box);
    expect(box.value).toBe("category1");
    rerender(select(CHOICES));
    expect(box.value).toBe("Category, level 1");
    await user.keyboard("sea");
    expect(box.value).toBe("sea");
    await user.click(await screen.findByRole("option", { name: "Season" }));
    expect(onChange).toHaveBeenCalledWith("derived:season");
  });

  it("leaves alone what somebody is typing", async () => {
    const user = userEvent.setup();
    const { rerender } = render(<SearchSelect label="Field" value="season" choices={[]} onChange={() => {}} />);
    const box = screen.getByRole<HTMLInputElement>("combobox", { name: "Field" });
    await user.click(box);
    await user.keyboard("ca");
    rerender(<SearchSelect label="Field" value="season" choices={CHOICES} onChange={() => {}} />);
    await user.keyboard("t");
    expect(box.value).toBe("cat");
  });
});
