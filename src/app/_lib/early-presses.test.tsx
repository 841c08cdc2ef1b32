// @vitest-environment jsdom
import { beforeEach, expect, it } from "vitest";
import { keepEarlyPresses } from "./early-presses";

// The document here knows of no pointers.
(globalThis as { PointerEvent?: unknown }).PointerEvent ??= MouseEvent;

const heard: string[] = [];
const note = (event: Event) => {
  const { id, value } = event.target as HTMLInputElement;
  heard.push(`${event.type} ${id}${value ? ` ${value}` : ""}`);
};
const one = (id: string) => document.getElementById(id)!;

beforeEach(() => {
  heard.length = 0;
  document.body.innerHTML = `<button id="send"><span id="inside">Send</span></button><button id="other">Other</button>
    <input id="name"><input id="box" type="checkbox"><select id="role"><option>viewer</option><option>sender</option></select>
    <a id="link" href="#there">There</a>`;
  keepEarlyPresses("live");
});

/** The page's own script has run: from now on somebody listens. */
function live(): void {
  for (const kind of ["click", "change", "mousedown"]) document.body.addEventListener(kind, note);
  document.dispatchEvent(new Event("live"));
  for (const kind of ["click", "change", "mousedown"]) document.body.removeEventListener(kind, note);
}

it("does the last press once the page answers, as a mouse would", () => {
  one("other").click();
  one("inside").click();
  live();
  expect(heard).toEqual(["mousedown send", "click send"]);
});

it("has what was chosen and typed noticed, and only that", () => {
  (one("role") as HTMLSelectElement).value = "sender";
  one("role").dispatchEvent(new Event("change", { bubbles: true }));
  (one("name") as HTMLInputElement).value = "Ada";
  one("name").dispatchEvent(new Event("input", { bubbles: true }));
  live();
  expect(heard).toEqual(["change role sender", "change name Ada"]);
});

it("ticks a box once, and lets links lead where they lead", () => {
  one("link").click();
  one("box").click();
  expect((one("box") as HTMLInputElement).checked).toBe(false);
  live();
  expect((one("box") as HTMLInputElement).checked).toBe(true);
  expect(heard.filter((line) => line.startsWith("click"))).toEqual(["click box on"]);
});

it("keeps nothing any more after that, nor of what has gone meanwhile", () => {
  one("send").click();
  one("send").remove();
  live();
  one("other").click();
  document.dispatchEvent(new Event("live"));
  expect(heard).toEqual([]);
});
