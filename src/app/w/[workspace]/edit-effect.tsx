"use client";

import { useQuery } from "@tanstack/react-query";
import { formatCount, plural } from "@/core/kit/format";
import type { HomesBetween } from "@/server/account/homes-between";
import { useSettled } from "@/ui/use-settled";
import { apiSend, type ApiError } from "../../_lib/api";
import { useApiPath } from "../../_lib/workspace";
import type { Edit } from "./use-edit";

/** Acts that can change who serves an item first. */
const MOVING = new Set<Edit["action"]>(["status", "serve-order", "bid", "amount", "move-groups"]);

/** What becomes of the items that an act is about: who serves them then, and how many are left without a home. */
export function EditEffect({ edit }: { edit: Edit }) {
  const apiPath = useApiPath();
  const asked = useSettled(JSON.stringify(edit), 300);
  const isAsked = MOVING.has(edit.action) && !(edit.action === "amount" && edit.field === "dailyBudget");
  const effect = useQuery<HomesBetween, ApiError>({
    queryKey: ["api", "edit effect", apiPath(""), asked],
    queryFn: ({ signal }) => apiSend<HomesBetween>(apiPath("account/edits/look"), JSON.parse(asked), "POST", signal),
    enabled: isAsked,
    placeholderData: (before) => before,
    retry: false,
  });
  if (!isAsked || !effect.data) return null;
  const { homed, moved, homeless, takers, leaks } = effect.data;
  const taken = homed + moved;
  const named = takers.map(({ name, items }) => `${name} (${formatCount(items)})`).join(", ");
  return (
    <p role="status" className="rounded-md bg-raised px-3 py-2 text-sm num">
      {taken + homeless === 0 && "Who serves each item stays as it is. "}
      {taken > 0 && `${plural(taken, "item")} ${taken === 1 ? "is" : "are"} served by ${named} then. `}
      {homeless > 0 && (
        <span className="font-semibold text-ember">{plural(homeless, "item")} would have no home, so no ads. </span>
      )}
      {leaks.after > leaks.before && (
        <span className="font-semibold text-ember">
          {plural(leaks.after - leaks.before, "open remainder")} more bids on what nobody named.
        </span>
      )}
    </p>
  );
}
