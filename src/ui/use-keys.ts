"use client";

import { useEffect, useRef } from "react";

/** Whether a key press belongs to a field that a person types in, or to an open dialog. */
export function isTaken(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement | null;
  if (!target) return false;
  // A box that is ticked takes no letters.
  const isTicked = target instanceof HTMLInputElement && /^(checkbox|radio)$/.test(target.type);
  if (target.isContentEditable || (/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) && !isTicked)) return true;
  return target.closest('[role="dialog"]') !== null;
}

/** Runs an action when its key is pressed anywhere but in a field or a dialog. Keys with modifiers are left alone. */
export function useKeys(keys: Record<string, () => void>): void {
  const latest = useRef(keys);
  useEffect(() => {
    latest.current = keys;
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || isTaken(event)) return;
      const action = latest.current[event.key];
      // Enter on a focused button or link means that button or link.
      if (!action || (event.key === "Enter" && (event.target as HTMLElement).closest("button, a"))) return;
      event.preventDefault();
      action();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}
