"use client";

import { useCallback, useEffect, useState } from "react";
import type { CopyPlan } from "@/core/copy/copy-plan";

/** Changes that can be taken back. */
const MOST_BACK = 100;
/** Changes closer together than this, such as letters typed, are one. */
const ONE_CHANGE_MS = 600;

interface State {
  draft: CopyPlan;
  back: CopyPlan[];
  changedAt: number;
}

function stored(key: string): CopyPlan | null {
  try {
    const text = sessionStorage.getItem(key);
    return text === null ? null : (JSON.parse(text) as CopyPlan);
  } catch {
    return null;
  }
}

/**
 * A plan as somebody works on it: kept by the tab while they look elsewhere, such as at the feed, with its last changes to be
 * taken back.
 * @param start as it is kept on the server, or made afresh
 */
export function useDraft(name: string, start: CopyPlan) {
  const key = `hot-shelf.copy.${name}`;
  const [state, setState] = useState<State>({ draft: start, back: [], changedAt: 0 });
  // What the tab kept is read once the page stands, so that it is drawn as the server drew it first.
  useEffect(() => {
    const kept = stored(key);
    // eslint-disable-next-line react-hooks/set-state-in-effect -- the tab's storage can't be read while drawing on the server
    if (kept) setState({ draft: kept, back: [start], changedAt: 0 });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only when another plan is opened
  }, [key]);
  const { draft, back } = state;
  const set = useCallback(
    (change: (before: CopyPlan) => CopyPlan) =>
      setState((old) => {
        const now = Date.now();
        const next = change(old.draft);
        try {
          sessionStorage.setItem(key, JSON.stringify(next));
        } catch {
          // Then it is lost when the page is left, and nothing breaks.
        }
        const isSame = now - old.changedAt < ONE_CHANGE_MS && old.back.length > 0;
        return { draft: next, back: isSame ? old.back : [...old.back, old.draft].slice(-MOST_BACK), changedAt: now };
      }),
    [key],
  );
  const takeBack = useCallback(
    () =>
      setState((old) => {
        const before = old.back.at(-1);
        if (!before) return old;
        sessionStorage.setItem(key, JSON.stringify(before));
        return { draft: before, back: old.back.slice(0, -1), changedAt: 0 };
      }),
    [key],
  );
  const forget = useCallback(() => sessionStorage.removeItem(key), [key]);
  return { draft, set, takeBack, canTakeBack: back.length > 0, forget };
}
