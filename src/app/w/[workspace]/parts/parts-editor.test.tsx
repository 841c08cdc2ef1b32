// @vitest-environment jsdom
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { partsAsText } from "@/core/parts/cell";
import { field, text, type Part } from "@/core/parts/part";
import { PartsEditor } from "./parts-editor";
import { stubSizes } from "@/ui/no-layout.testing";

const CHOICES = [
  { value: "title", label: "Title" },
  { value: "brand", label: "Brand" },
  { value: "own:colour", label: "Colour" },
];

function Editor({ start, onPasteLines }: { start: Part[]; onPasteLines?: (lines: Part[][]) => void }) {
  const [value, setValue] = useState(start);
  return (
    <>
      <PartsEditor
        label="Line"
        value={value}
        choices={CHOICES}
        most={5}
        onChange={setValue}
        {...(onPasteLines && { onPasteLines })}
      />
      <p aria-label="Value">{partsAsText(value)}</p>
    </>
  );
}

const value = () => screen.getByLabelText("Value").textContent;

// The popover looks where there is room for it, and asks when that changes.
stubSizes();

afterEach(cleanup);

describe("the editor of parts", () => {
  it("takes texts and fields, no more than there may be", async () => {
    const user = userEvent.setup();
    render(<Editor start={[text("")]} />);
    await user.type(screen.getByLabelText("Line: text 1"), "Best ");
    await user.click(screen.getByRole("button", { name: "+ field" }));
    await user.click(screen.getByRole("combobox", { name: "Field for line" }));
    await user.click(await screen.findByRole("option", { name: "Brand" }));
    expect(value()).toBe("Best [brand]");
    await user.click(screen.getByRole("button", { name: "+ text" }));
    await user.type(screen.getByLabelText("Line: text 3"), "for");
    expect(value()).toBe("Best [brand] for");
    expect(screen.queryByRole("button", { name: "+ text" })).toBeNull();
  });

  it("moves a part by Alt and an arrow, and takes it out by a key", async () => {
    const user = userEvent.setup();
    render(<Editor start={[field("title"), text(" by "), field("brand")]} />);
    screen.getByRole("button", { name: "Brand" }).focus();
    await user.keyboard("{Alt>}{ArrowLeft}{/Alt}");
    expect(value()).toBe("[title][brand] by ");
    // The moved part has the focus still, and there is nothing before the first.
    await waitFor(() => expect(document.activeElement).toBe(screen.getByRole("button", { name: "Brand" })));
    await user.keyboard("{Alt>}{ArrowLeft}{ArrowLeft}{/Alt}");
    expect(value()).toBe("[brand][title] by ");
    screen.getByRole("button", { name: "Title" }).focus();
    await user.keyboard("{Delete}");
    expect(value()).toBe("[brand] by ");
    await user.click(screen.getByRole("button", { name: "Remove Brand" }));
    expect(value()).toBe(" by ");
  });

  it("makes chips of fields in brackets that are pasted, and leaves other brackets as they are", async () => {
    const user = userEvent.setup();
    render(<Editor start={[text("Now: ")]} />);
    await user.click(screen.getByLabelText("Line: text 1"));
    await user.paste("[Colour] [title; shorten 20]!");
    expect(value()).toBe("Now: [own:colour] [title; shorten 20]!");
    cleanup();
    render(<Editor start={[text("")]} />);
    await user.click(screen.getByLabelText("Line: text 1"));
    await user.paste("[now] only");
    expect(screen.getByLabelText<HTMLInputElement>("Line: text 1").value).toBe("[now] only");
  });

  it("loses nothing of what is pasted: lines get a blank between them, and too many fields stay text", async () => {
    const user = userEvent.setup();
    render(<Editor start={[text("")]} />);
    await user.click(screen.getByLabelText("Line: text 1"));
    await user.paste("one\n[brand]");
    expect(value()).toBe("one [brand]");
    cleanup();
    render(<Editor start={[text("a ")]} />);
    await user.click(screen.getByLabelText("Line: text 1"));
    await user.paste("[title][brand][title][brand][title]");
    expect(screen.getByLabelText<HTMLInputElement>("Line: text 1").value).toBe("a [title][brand][title][brand][title]");
  });

  it("gives several pasted lines on, the first as this one is now", async () => {
    const user = userEvent.setup();
    const onPasteLines = vi.fn();
    render(<Editor start={[text("a ")]} onPasteLines={onPasteLines} />);
    await user.click(screen.getByLabelText("Line: text 1"));
    await user.paste("one\n\n[brand] two\r\n");
    expect(onPasteLines).toHaveBeenCalledWith([[text("a one")], [field("brand"), text(" two")]]);
  });

  it("opens what is done to a value, and tells it on the chip", async () => {
    const user = userEvent.setup();
    render(<Editor start={[field("title")]} />);
    await user.click(screen.getByRole("button", { name: "Title" }));
    await user.click(await screen.findByRole("button", { name: /Change it/ }));
    await user.clear(screen.getByLabelText("Most characters"));
    await user.type(screen.getByLabelText("Most characters"), "12");
    expect(value()).toBe("[title; shorten 12]");
    expect(screen.getByRole("button", { name: "Title +1: shorten at a word" })).toBeTruthy();
    expect(screen.queryByRole("option", { name: "look up in a list" })).toBeNull();
    // Nor can it be calculated with another field: a line knows none.
    await user.selectOptions(screen.getByLabelText("Step 1"), "calculate");
    expect(screen.queryByLabelText("By a number or a field")).toBeNull();
    await user.click(screen.getByRole("button", { name: "Remove step 1" }));
    expect(value()).toBe("[title]");
  });
});
