import { useState } from "react";

/** Which lines of a tree are unfolded, by key: turned one by one, or all and none at once. */
export function useUnfolded() {
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const turn = (key: string) =>
    setOpen((old) => {
      const next = new Set(old);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  /** Folds all where one is unfolded, else unfolds these. */
  const turnAll = (keys: string[]) => setOpen((old) => new Set(old.size > 0 ? [] : keys));
  return { open, turn, turnAll };
}

export type Unfolded = ReturnType<typeof useUnfolded>;
