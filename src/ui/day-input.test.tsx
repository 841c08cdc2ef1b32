// @vitest-environment jsdom
import { fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import { DayInput } from "./day-input";

const told: string[] = [];

function Form({ start }: { start: string }) {
  const [day, setDay] = useState(start);
  const change = (next: string) => {
    told.push(next);
    setDay(next);
  };
  return <DayInput aria-label="Last day" value={day} onChange={change} />;
}

const field = () => screen.getByRole<HTMLInputElement>("textbox", { name: "Last day" });
const type = (text: string) => fireEvent.change(field(), { target: { value: text } });

it("shows days as all days here, takes them as they are typed, and says what it can't read", () => {
  render(<Form start="2026-10-29" />);
  expect(field().value).toBe("29 Oct 2026");
  type("30.10.2026");
  fireEvent.blur(field());
  expect(field().value).toBe("30 Oct 2026");
  type("3/4/2026");
  fireEvent.blur(field());
  // What could be two days is left to be put right, and changes nothing.
  expect([field().value, field().getAttribute("aria-invalid")]).toEqual(["3/4/2026", "true"]);
  expect(screen.getByRole("alert").textContent).toContain("one way only");
  type("");
  fireEvent.blur(field());
  expect(field().value).toBe("");
  expect(told).toEqual(["2026-10-30", ""]);
});
