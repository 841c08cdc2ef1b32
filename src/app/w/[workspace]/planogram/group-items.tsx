"use client";

import { useState } from "react";
import { formatCount, formatMetric, plural } from "@/core/kit/format";
import { METRICS } from "@/core/kit/metrics";
import { formatMoney } from "@/core/kit/money";
import type { GroupItem, ItemsOfGroup } from "@/server/planogram/group-items";
import type { AccountLine } from "@/server/planogram/workbench";
import { Button } from "@/ui/button";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { Dialog } from "@/ui/dialog";
import { ItemTag } from "@/ui/item-tag";
import { Loading } from "@/ui/notes";
import { useApi } from "../../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../../_lib/workspace";
import { ItemActionDialog, type ItemAction } from "../item-actions";

const TOP = 10;

/** The items of a campaign or group with what they did in it, to break out, exclude or bid on; with who takes over. */
export function GroupItems({ line, onClose }: { line: AccountLine; onClose: () => void }) {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const [days] = useDays();
  const [sort, setSort] = useState("-clicks");
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const [doing, setDoing] = useState<ItemAction | null>(null);
  const found = useApi<ItemsOfGroup>(
    apiPath(`group-items?group=${encodeURIComponent(line.key)}&days=${days}&sort=${encodeURIComponent(sort)}`),
  );
  const items = found.data?.items ?? [];
  const picked = items.filter(({ id }) => selected.has(id));
  const columns: TableColumn<GroupItem>[] = [
    {
      ...{ key: "item", label: "Item", width: "1fr" },
      cell: ({ id, title, image }) => <ItemTag id={id} title={title} image={image} />,
    },
    {
      ...{ key: "clicks", label: "Clicks", width: 70, align: "right", sort: "clicks" },
      cell: ({ sums }) => formatCount(sums.clicks),
    },
    {
      ...{ key: "cost", label: "Spend", width: 84, align: "right", sort: "cost" },
      cell: ({ sums }) => formatMoney(sums.cost, currency),
    },
    {
      ...{ key: "orders", label: "Orders", width: 66, align: "right", sort: "orders" },
      cell: ({ sums }) => formatCount(sums.orders),
    },
    {
      ...{ key: "roas", label: "ROAS", width: 62, align: "right", sort: "roas" },
      cell: ({ sums }) => formatMetric("roas", METRICS.roas.of(sums), currency),
    },
    {
      ...{ key: "next", label: "Without it", width: 150 },
      about: "Who serves the item when this one does not.",
      cell: ({ next }) => next ?? <span className="text-ember">nobody</span>,
    },
  ];
  return (
    <Dialog open onClose={onClose} title={`Items of ${line.name}`} wide>
      <div className="flex h-[60vh] flex-col gap-3">
        {!found.data ? (
          <Loading what="items" />
        ) : (
          <>
            <div className="flex flex-wrap items-center gap-2 text-sm">
              <span className="text-soft num">{plural(found.data.total, "item")}</span>
              <Button onClick={() => setSelected(new Set(items.slice(0, TOP).map(({ id }) => id)))}>
                Pick the first {TOP}
              </Button>
              {picked.length > 0 && (
                <>
                  <b className="num">{plural(picked.length, "item")} picked</b>
                  <Button onClick={() => setDoing("solo")}>Own campaign</Button>
                  <Button onClick={() => setDoing("item-bid")}>Bid</Button>
                  <Button onClick={() => setDoing("exclude")}>Exclude</Button>
                </>
              )}
            </div>
            <DataTable
              label="Items of the group"
              columns={columns}
              total={items.length}
              rowAt={(index) => items[index]}
              keyOf={({ id }) => id}
              sort={sort}
              onSort={(next) => setSort(next || "-clicks")}
              selected={selected}
              onToggle={(id) =>
                setSelected((old) => {
                  const next = new Set(old);
                  if (!next.delete(id)) next.add(id);
                  return next;
                })
              }
              onToggleAll={() => setSelected(selected.size > 0 ? new Set() : new Set(items.map(({ id }) => id)))}
              isAllSelected={selected.size > 0 && selected.size === items.length}
              empty={<p className="p-4 text-sm text-soft">It holds no item.</p>}
            />
          </>
        )}
        <ItemActionDialog
          action={doing}
          items={picked.map(({ id }) => id)}
          suggestion={picked.length === 1 ? picked[0]!.title : `Best of ${line.name}`}
          campaign={line.level === "campaign" ? line.key : null}
          onClose={() => setDoing(null)}
          onDone={onClose}
        />
      </div>
    </Dialog>
  );
}
