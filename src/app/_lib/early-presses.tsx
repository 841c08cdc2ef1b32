/** Said to the document once its controls answer. */
const LIVE = "hot-shelf-live";

/** Says in the page that its controls answer by now: what came drawn is seen before that. */
export function sayLive(): void {
  document.documentElement.dataset["live"] = "true";
  document.dispatchEvent(new Event(LIVE));
}

/**
 * Keeps what somebody does to a page whose script has not run yet, and does it once the page answers: the last button
 * pressed, and what was chosen and typed. Without it a choice would stand on screen that nobody heard of. Links lead
 * where they lead. It runs in the page before anything else there, so it uses nothing from outside itself.
 * @param live the event that ends it
 */
export function keepEarlyPresses(live: string): void {
  type Field = HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement;
  let pressed: HTMLElement | null = null;
  const written = new Map<Field, string>();
  const kinds = ["click", "input", "change"];

  const keep = (event: Event): void => {
    const control = (event.target as Element).closest<HTMLElement>("a, button, input, select, textarea, [role]");
    if (!control || control instanceof HTMLAnchorElement) return;
    const isBox = control instanceof HTMLInputElement && /^(?:checkbox|radio|submit|button)$/.test(control.type);
    if (event.type === "click" && (isBox || !control.matches("input, select, textarea"))) {
      pressed = control;
      event.preventDefault();
    } else if (event.type !== "click" && !isBox && control.matches("input, select, textarea")) {
      written.set(control as Field, (control as Field).value);
    }
  };

  const replay = (): void => {
    for (const kind of kinds) document.removeEventListener(kind, keep, true);
    for (const [field, value] of written) {
      // What the drawn page remembers of the field is another value, and then past it, so that it notices a change.
      if (!(field instanceof HTMLSelectElement)) field.value = value === "" ? field.defaultValue : "";
      Object.getOwnPropertyDescriptor(Object.getPrototypeOf(field) as object, "value")!.set!.call(field, value);
      for (const kind of ["input", "change"]) field.dispatchEvent(new Event(kind, { bubbles: true }));
    }
    if (!pressed?.isConnected) return;
    // Menus open as the mouse goes down.
    for (const kind of ["pointerdown", "mousedown", "pointerup", "mouseup"]) {
      pressed.dispatchEvent(new PointerEvent(kind, { bubbles: true, cancelable: true, pointerType: "mouse" }));
    }
    pressed.click();
  };

  for (const kind of kinds) document.addEventListener(kind, keep, true);
  document.addEventListener(live, replay, { once: true });
}

/** Stands first in every page. */
export function EarlyPresses({ nonce }: { nonce: string | undefined }) {
  const script = `(${keepEarlyPresses.toString()})(${JSON.stringify(LIVE)})`;
  return <script nonce={nonce} suppressHydrationWarning dangerouslySetInnerHTML={{ __html: script }} />;
}
