import Link from "next/link";
import { formatMetric, plural } from "@/core/kit/format";
import { METRICS } from "@/core/kit/metrics";
import { formatMoney } from "@/core/kit/money";
import type { ShelfSetPage } from "@/server/shelves/blocks";
import { BalanceBar, Gap } from "@/ui/balance-bar";
import { HeatGlyph } from "@/ui/heat";
import { Plank } from "@/ui/plank";
import { useWorkspace } from "../../../_lib/workspace";
import { restWords, shelfWords } from "./shelf-words";
import { useShelfFields } from "./use-shelf-fields";

const GRID = "grid grid-cols-[200px_minmax(0,1fr)_230px_184px_64px] gap-4";

/** Every shelf as a plank with its items on it, its figures and its balance of spend and sales. */
export function ShelfPlanks({ page, set }: { page: ShelfSetPage; set: string }) {
  const { slug, currency } = useWorkspace();
  const fields = useShelfFields(set);
  const { definition } = page;
  const widest = Math.max(...page.shelves.map((shelf) => shelf.sums.cost));
  const tallest = Math.max(1, ...page.shelves.flatMap((shelf) => shelf.blocks.map((block) => block.revenue)));
  const scale = Math.max(0.01, ...page.shelves.flatMap((shelf) => [shelf.spendShare ?? 0, shelf.salesShare ?? 0]));
  const money = (amount: number) => formatMoney(amount, currency);
  const words = (i: number) => {
    const shelf = definition.shelves[i];
    return shelf ? shelfWords(shelf, page.shelves[i]!.cutAt, fields, currency) : restWords(definition);
  };
  return (
    <div role="table" aria-label="Shelves">
      <div role="row" className={`${GRID} items-end pb-1 text-xs text-soft`}>
        <span role="columnheader">Shelf</span>
        <span role="columnheader">Items: width spend, height sales (root scale), colour heat</span>
        <span role="columnheader" className="grid grid-cols-[1fr_1fr_60px] text-right">
          <span>Spend</span>
          <span>Sales</span>
          <span>Return</span>
        </span>
        <span role="columnheader" className="text-center">
          spend share | sales share
        </span>
        <span role="columnheader" className="text-right">
          Gap
        </span>
      </div>
      {page.shelves.map((shelf, i) => (
        <div key={shelf.key} role="row" className={`${GRID} items-end border-t border-line/60 pt-2 pb-1.5`}>
          <span role="cell" className="min-w-0">
            <Link
              href={`/w/${slug}/catalogue?shelf=${set}/${shelf.key}&sort=-cost&days=${definition.windowDays}`}
              className="inline-flex items-center gap-1.5 font-semibold hover:underline"
            >
              {shelf.heat && <HeatGlyph heat={shelf.heat} />} {shelf.name}
            </Link>
            <span className="block text-xs text-soft num">
              {plural(shelf.items, "item")}
              {shelf.priceFrom !== null && ` · ${money(shelf.priceFrom)} to ${money(shelf.priceTo ?? 0)}`}
            </span>
            <span className="line-clamp-2 text-xs text-soft num" title={words(i)}>
              {words(i)}
            </span>
            {shelf.goal !== null && (
              <span className="block text-xs text-soft num">
                goal of its own {shelf.goal}
                {shelf.sums.cost > 0 &&
                  `: ${(METRICS.roas.of(shelf.sums) ?? 0) >= shelf.goal ? "reached" : "▾ missed"}`}
              </span>
            )}
          </span>
          <span role="cell">
            <Plank
              blocks={shelf.blocks}
              more={shelf.more}
              widest={widest}
              tallest={tallest}
              label={`${shelf.name}: ${plural(shelf.items, "item")}, spend ${money(shelf.sums.cost)}, sales ${money(shelf.sums.revenue)}`}
              describe={(block) =>
                `${block.title}: spend ${money(block.cost)}, sales ${money(block.revenue)}, ${block.heat}`
              }
            />
          </span>
          <span role="cell" className="grid grid-cols-[1fr_1fr_60px] text-right num">
            <span>{money(shelf.sums.cost)}</span>
            <span>{money(shelf.sums.revenue)}</span>
            <b>{formatMetric("roas", METRICS.roas.of(shelf.sums), currency)}</b>
          </span>
          <span role="cell" className="text-center">
            <BalanceBar spendShare={shelf.spendShare} salesShare={shelf.salesShare} scale={scale} />
          </span>
          <span role="cell" className="text-right">
            <Gap gap={shelf.gap} />
          </span>
        </div>
      ))}
      <div role="row" className={`${GRID} border-t border-ink/40 pt-2 num`}>
        <b role="cell">All shelves</b>
        <span role="cell" className="text-soft">
          {plural(page.items, "item")}
        </span>
        <span role="cell" className="grid grid-cols-[1fr_1fr_60px] text-right">
          <span>{money(page.total.cost)}</span>
          <span>{money(page.total.revenue)}</span>
          <b>{formatMetric("roas", METRICS.roas.of(page.total), currency)}</b>
        </span>
        <span role="cell" />
        <span role="cell" />
      </div>
    </div>
  );
}
