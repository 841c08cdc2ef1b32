"use client";

import { ChevronDown, ChevronRight } from "lucide-react";
import { useRouter } from "next/navigation";
import { useMemo, useState } from "react";
import type { CategoryNode } from "@/core/catalogue/category-tree";
import { categoryColumn } from "@/core/kit/categories";
import { formatCount, formatMetric, plural } from "@/core/kit/format";
import { METRICS, shareGap, type Sums } from "@/core/kit/metrics";
import { BalanceBar } from "@/ui/balance-bar";
import { Button } from "@/ui/button";
import { EmptyNote, ErrorNote } from "@/ui/notes";
import { DataTable, type TableColumn } from "@/ui/data-table";
import { PageHead, WaitingRows } from "@/ui/page";
import { useApi } from "../../../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../../../_lib/workspace";
import { CatalogueTabs } from "../tabs";
import { useFeeds } from "../use-feeds";

const SHOWN = ["cost", "revenue", "roas"] as const;

const keyOf = (path: string[]) => path.join("\u0000");

/** The category tree: items, how deep they go, and who takes more than it brings, at every level. */
export default function CategoriesPage() {
  const { slug, currency } = useWorkspace();
  const router = useRouter();
  const [days] = useDays();
  const feeds = useFeeds();
  const answer = useApi<{ nodes: CategoryNode[]; total: Sums; items: number }>(useApiPath()(`categories?days=${days}`));
  const [closed, setClosed] = useState<ReadonlySet<string> | null>(null);
  const [sort, setSort] = useState("");
  const nodes = useMemo(() => answer.data?.nodes ?? [], [answer.data]);
  // At first only the top levels are open.
  const shut = useMemo(
    () => closed ?? new Set(nodes.filter(({ path }) => path.length >= 1).map(({ path }) => keyOf(path))),
    [closed, nodes],
  );
  const shown = useMemo(() => {
    const visible = nodes.filter(({ path }) => path.every((_, i) => i === 0 || !shut.has(keyOf(path.slice(0, i)))));
    return sort === "" ? visible : sortTree(visible, sort);
  }, [nodes, shut, sort]);
  const total = answer.data?.total;
  const shares = total ? nodes.map(({ sums }) => shareGap(sums, total)) : [];
  const scale = Math.max(0.01, ...shares.flatMap(({ spendShare, salesShare }) => [spendShare ?? 0, salesShare ?? 0]));
  const toggle = (path: string[]) => {
    const next = new Set(shut);
    if (!next.delete(keyOf(path))) next.add(keyOf(path));
    setClosed(next);
  };
  const openItems = ({ path }: CategoryNode) => {
    const of =
      path.length === 0
        ? [{ field: categoryColumn(1), op: "empty", value: "" }]
        : path.map((value, i) => ({ field: categoryColumn(i + 1), op: "is", value }));
    router.push(`/w/${slug}/catalogue?filter=${encodeURIComponent(JSON.stringify({ match: "all", of }))}&days=${days}`);
  };
  const columns: TableColumn<CategoryNode>[] = [
    {
      key: "name",
      label: "Category",
      width: "1fr",
      cell: (node) => (
        <span className="flex items-center gap-1" style={{ paddingLeft: Math.max(0, node.path.length - 1) * 20 }}>
          {node.children > 0 ? (
            <button
              type="button"
              aria-label={`${shut.has(keyOf(node.path)) ? "Open" : "Close"} ${node.path.at(-1)}`}
              aria-expanded={!shut.has(keyOf(node.path))}
              className="rounded p-0.5 hover:bg-raised"
              onClick={(event) => {
                event.stopPropagation();
                toggle(node.path);
              }}
            >
              {shut.has(keyOf(node.path)) ? (
                <ChevronRight aria-hidden className="size-3.5" />
              ) : (
                <ChevronDown aria-hidden className="size-3.5" />
              )}
            </button>
          ) : (
            <span className="w-[18px]" />
          )}
          <span className="truncate">{node.path.at(-1) ?? "No category"}</span>
          {node.children > 0 && <span className="text-xs text-soft num">{node.children}</span>}
        </span>
      ),
    },
    {
      key: "items",
      label: "Items",
      width: 80,
      align: "right",
      sort: "items",
      cell: (node) => formatCount(node.items),
    },
    {
      key: "deeper",
      label: "Goes deeper",
      about:
        "Share of its items that have a category on the next level. Below 100 % a split by that level leaves some out.",
      width: 110,
      align: "right",
      cell: (node) =>
        node.children === 0 ? (
          <span className="text-soft">ends here</span>
        ) : (
          `${Math.floor((100 * node.deeper) / node.items)} %`
        ),
    },
    ...SHOWN.map((key): TableColumn<CategoryNode> => ({
      key,
      label: METRICS[key].label,
      width: 96,
      align: "right",
      sort: key,
      cell: (node) => formatMetric(key, METRICS[key].of(node.sums), currency),
    })),
    {
      key: "balance",
      label: "Spend share · sales share",
      width: 240,
      cell: (node) => total && <BalanceBar {...shareGap(node.sums, total)} scale={scale} />,
    },
  ];
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Catalogue"
        facts={
          answer.data && `${plural(nodes.length, "category", "categories")} over ${plural(answer.data.items, "item")}`
        }
      >
        <Button onClick={() => setClosed(new Set())}>Open all</Button>
        <Button onClick={() => setClosed(null)}>Top levels only</Button>
      </PageHead>
      <CatalogueTabs feeds={feeds.data} />
      {answer.error && <ErrorNote error={answer.error.failure} />}
      {answer.isPending ? (
        <WaitingRows />
      ) : (
        <DataTable
          label="Categories"
          columns={columns}
          total={shown.length}
          rowAt={(index) => shown[index]}
          keyOf={({ path }) => keyOf(path) || "none"}
          sort={sort}
          onSort={setSort}
          onOpen={openItems}
          empty={<EmptyNote title="No categories">The feed has no category column, or it is not mapped.</EmptyNote>}
        />
      )}
    </div>
  );
}

/** Sorts the members of each level among themselves, so that the tree stays a tree. */
function sortTree(nodes: CategoryNode[], sort: string): CategoryNode[] {
  const sign = sort.startsWith("-") ? -1 : 1;
  const by = sort.replace(/^-/, "") as "items" | (typeof SHOWN)[number];
  const value = (node: CategoryNode) => (by === "items" ? node.items : (METRICS[by].of(node.sums) ?? -Infinity));
  const children = new Map<string, CategoryNode[]>();
  for (const node of nodes) {
    const parent = keyOf(node.path.slice(0, -1));
    children.set(parent, [...(children.get(parent) ?? []), node]);
  }
  const walk = (parent: string): CategoryNode[] =>
    (children.get(parent) ?? [])
      .sort((a, b) => sign * (value(a) - value(b)))
      .flatMap((node) => [node, ...(node.path.length === 0 ? [] : walk(keyOf(node.path)))]);
  return walk("");
}
