// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it } from "vitest";
import { SettledInput } from "./settled-input";

afterEach(cleanup);

/** A field over a value that may be changed from outside, and what it told. */
function drawn(takes = true) {
  const told: string[] = [];
  const field = (value: string) => (
    <SettledInput
      aria-label="Budget"
      value={value}
      onSettle={(text) => {
        told.push(text);
        return takes;
      }}
    />
  );
  const { rerender } = render(field("12.00"));
  return { told, answer: (value: string) => rerender(field(value)), input: screen.getByLabelText("Budget") };
}
const shown = () => screen.getByLabelText<HTMLInputElement>("Budget").value;

describe("a field that counts once it is left", () => {
  it("keeps what is being typed where an answer comes in between", async () => {
    const { told, answer, input } = drawn();
    await userEvent.clear(input);
    await userEvent.type(input, "10");
    answer("13.00");
    expect(shown()).toBe("10");
    await userEvent.type(input, "0{Enter}");
    expect(told).toEqual(["100"]);
    // Until the answer to it is there, what was set stands; then what was answered.
    expect(shown()).toBe("100");
    answer("100.00");
    expect(shown()).toBe("100.00");
  });

  it("tells nothing where nothing was typed, it was typed as it was, or Escape put it back", async () => {
    const { told, input } = drawn();
    await userEvent.click(input);
    await userEvent.tab();
    await userEvent.clear(input);
    await userEvent.type(input, "12.00");
    await userEvent.tab();
    await userEvent.type(input, "9{Escape}");
    expect(shown()).toBe("12.00");
    await userEvent.tab();
    expect(told).toEqual([]);
  });

  it("goes back to what was there where what was typed is not taken", async () => {
    const { told, input } = drawn(false);
    await userEvent.clear(input);
    await userEvent.type(input, "much{Enter}");
    expect(told).toEqual(["much"]);
    expect(shown()).toBe("12.00");
  });
});
