"use client";

import { plural } from "@/core/kit/format";
import type { RenamedValue } from "@/server/across/catalogue/renamed-values";
import { Button } from "@/ui/button";
import { useEdit } from "../../use-edit";
import { useApi } from "../../../../_lib/api";
import { useApiPath } from "../../../../_lib/workspace";

/** Values that the feed calls by another name now, with the way to carry the structure over. */
export function Renames({ id }: { id: number }) {
  const apiPath = useApiPath();
  const renames = useApi<RenamedValue[]>(apiPath(`refreshes/${id}/renames`)).data ?? [];
  const edit = useEdit();
  return renames.map(({ by, label, from, to, items, groups }) => (
    <p
      key={`${by}/${from}`}
      className="mb-3 flex flex-wrap items-center gap-x-3 gap-y-1 rounded-md bg-petrol-wash px-3 py-2 text-sm num"
    >
      <span className="flex-1">
        <b>
          {label}: “{from}” seems to be called “{to}” now.
        </b>{" "}
        {plural(items, "item")} went over; {plural(groups, "group")} {groups === 1 ? "is" : "are"} named for the old
        value and would serve none of them.
      </span>
      <Button onClick={() => void edit({ action: "rename-value", by, from, to })}>Carry the structure over</Button>
    </p>
  ));
}
