import { sameValue } from "@/core/kit/diff";
import type { Each, Planogram } from "@/core/planogram/planogram";

/** What is changed of single campaigns: undefined puts a setting back to what all have. */
export type EachChange = { [K in keyof Each]?: Each[K] | undefined };

/** Settings of single campaigns and ad groups after a change; null lets them have all as the plan says. */
export function withEach(
  each: Planogram["each"],
  keys: string[],
  change: EachChange | null,
): NonNullable<Planogram["each"]> | undefined {
  const next = { ...each };
  for (const key of keys) {
    const own = Object.fromEntries(
      Object.entries(change === null ? {} : { ...next[key], ...change }).filter(([, value]) => value !== undefined),
    ) as Each;
    if (Object.keys(own).length > 0) next[key] = own;
    else delete next[key];
  }
  return Object.keys(next).length > 0 ? next : undefined;
}

/** What all of some have of their own in common. */
export function commonEach(each: Planogram["each"], keys: string[]): Each {
  const [first = {}, ...others] = keys.map((key) => each?.[key] ?? {});
  return Object.fromEntries(
    Object.entries(first).filter(([name, value]) =>
      others.every((other) => sameValue(other[name as keyof Each], value)),
    ),
  ) as Each;
}
