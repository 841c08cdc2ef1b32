"use client";

import { useState } from "react";
import { plural } from "@/core/kit/format";
import type { PlannedGroup } from "@/core/planogram/planned-campaigns";
import type { Planogram } from "@/core/planogram/planogram";
import type { PlannedItems } from "@/server/planogram/planograms";
import { Button } from "@/ui/button";
import { SidePanel } from "@/ui/dialog";
import { ItemTag } from "@/ui/item-tag";
import { Loading } from "@/ui/notes";
import { useAsk } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";

const PAGE = 100;

/** The items of one planned campaign or ad group, a page at a time. */
export function PlannedItemsPanel({
  planogram,
  group,
  onClose,
}: {
  planogram: Planogram;
  group: PlannedGroup | null;
  onClose: () => void;
}) {
  const apiPath = useApiPath();
  const [limit, setLimit] = useState(PAGE);
  const items = useAsk<PlannedItems>(
    apiPath(`planograms/preview/items?node=${group?.node}&limit=${limit}`),
    planogram,
    { enabled: group !== null },
  );
  return (
    <SidePanel
      open={group !== null}
      onClose={onClose}
      title={
        <span className="font-display text-lg font-semibold">
          {group?.name}
          <span className="block text-sm font-normal text-soft">
            {items.data ? plural(items.data.total, "item") : ""}
          </span>
        </span>
      }
    >
      {!items.data && <Loading what="items" />}
      <ul className="divide-y divide-line">
        {items.data?.items.map((item) => (
          <li key={item.id} className="flex items-center justify-between gap-2 py-1.5">
            <ItemTag id={item.id} title={item.title} image={item.image} />
            <span className="font-mono text-xs text-soft">{item.id}</span>
          </li>
        ))}
      </ul>
      {items.data && items.data.total > items.data.items.length && (
        <Button className="mt-3" onClick={() => setLimit(limit + PAGE * 5)}>
          Show more
        </Button>
      )}
    </SidePanel>
  );
}
