import { plural } from "@/core/kit/format";
import type { OutOfStep } from "@/server/planogram/in-step";

/** What coming into step does to items, in words; that nothing happens to any is said too. */
export function stepWords({ homed, moved, homeless }: Pick<OutOfStep, "homed" | "moved" | "homeless">): string {
  const parts = [
    homed > 0 ? `${plural(homed, "item")} would get a home` : "",
    moved > 0 ? `${plural(moved, "item")} would change theirs` : "",
    homeless > 0 ? `${plural(homeless, "item")} would lose it` : "",
  ].filter(Boolean);
  return parts.length > 0 ? parts.join(", ") : "no item changes its home";
}
