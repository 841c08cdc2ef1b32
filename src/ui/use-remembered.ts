"use client";

import { useCallback, useSyncExternalStore } from "react";

const listeners = new Set<() => void>();

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  window.addEventListener("storage", listener);
  return () => {
    listeners.delete(listener);
    window.removeEventListener("storage", listener);
  };
}

function read(key: string): string | null {
  try {
    return localStorage.getItem(key);
  } catch {
    // A browser that keeps nothing remembers nothing.
    return null;
  }
}

/** A switch that this browser remembers, such as whether a part of a page is folded. */
export function useRemembered(name: string, before = false): [boolean, (value: boolean) => void] {
  const key = `hot-shelf.${name}`;
  const value = useSyncExternalStore(
    subscribe,
    () => read(key),
    () => null,
  );
  const set = useCallback(
    (next: boolean) => {
      try {
        localStorage.setItem(key, next ? "1" : "0");
      } catch {
        // Then it holds for nobody but this moment, and nothing breaks.
      }
      for (const listener of listeners) listener();
    },
    [key],
  );
  return [value === null ? before : value === "1", set];
}
