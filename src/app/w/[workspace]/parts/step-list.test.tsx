// @vitest-environment jsdom
import { cleanup, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, describe, expect, it } from "vitest";
import { FRESH_STEP, STEP_LABEL, stepSchema, type Step } from "@/core/parts/steps";
import { StepList } from "./step-list";

const LISTS = [{ key: "colours", name: "Colours" }];
const FIELDS = [{ name: "cost", label: "Cost", kind: "money" as const, group: "Feed" }];

function List({ start }: { start: readonly Step[] }) {
  const [value, setValue] = useState(start);
  return (
    <>
      <StepList steps={value} fields={FIELDS} lists={LISTS} onChange={setValue} />
      <p aria-label="Steps">{JSON.stringify(value)}</p>
    </>
  );
}

const steps = () => JSON.parse(screen.getByLabelText("Steps").textContent ?? "") as Step[];

afterEach(cleanup);

describe("what is done to a value", () => {
  it.each(Object.keys(FRESH_STEP) as Step["do"][])(
    "%s can be chosen, and is set up to something that can be kept",
    async (name) => {
      const user = userEvent.setup();
      render(<List start={[]} />);
      await user.click(screen.getByRole("button", { name: /Change it/ }));
      await user.selectOptions(screen.getByLabelText("Step 1"), STEP_LABEL[name]);
      expect(steps()).toEqual([FRESH_STEP[name]]);
      // Whatever there is to fill in takes what is typed, and never leaves a step that can't be kept.
      for (const box of within(screen.getByRole("list")).queryAllByRole("textbox")) {
        await user.clear(box);
        await user.type(box, "7");
        expect([name, stepSchema.safeParse(steps()[0]).success]).toEqual([name, true]);
      }
      for (const box of within(screen.getByRole("list")).queryAllByRole<HTMLSelectElement>("combobox").slice(1)) {
        await user.selectOptions(box, [...box.options].at(-1)!.value);
        expect([name, stepSchema.safeParse(steps()[0]).success]).toEqual([name, true]);
      }
      expect(steps()[0]!.do).toBe(name);
      if (name !== "plain-text") expect(steps()[0]).not.toEqual(FRESH_STEP[name]);
    },
  );

  it("keeps the order, and takes out the one that is meant", async () => {
    const user = userEvent.setup();
    render(<List start={[FRESH_STEP.case, FRESH_STEP.shorten, FRESH_STEP.default]} />);
    await user.click(screen.getByRole("button", { name: "Remove step 2" }));
    expect(steps()).toEqual([FRESH_STEP.case, FRESH_STEP.default]);
  });
});
