import { ArrowDown, ArrowUp, ChevronRight, X } from "lucide-react";
import { Fragment } from "react";
import { formatCount, formatMetric, formatShare, plural } from "@/core/kit/format";
import { METRICS } from "@/core/kit/metrics";
import { formatMoney } from "@/core/kit/money";
import type { LiveFigures } from "@/core/shelves/live";
import type { ShelfRule, ShelfSet } from "@/core/shelves/shelf-set";
import { Gap } from "@/ui/balance-bar";
import { cx } from "@/ui/cx";
import { HeatGlyph } from "@/ui/heat";
import { useWorkspace } from "../../../_lib/workspace";
import { ShelfEditor } from "./shelf-editor";
import { restWords, shelfWords } from "./shelf-words";
import { useShelfFields } from "./use-shelf-fields";

/** The shelves of a draft in order, each with what it would hold, and an editor for the one that is open. */
export function BuilderShelves({
  draft,
  isKept,
  figures,
  cuts,
  open,
  onOpen,
  onChange,
  onShelf,
}: {
  draft: ShelfSet;
  isKept: boolean;
  figures: LiveFigures | null;
  cuts: (number | null)[];
  open: string | null;
  onOpen: (key: string | null) => void;
  onChange: (draft: ShelfSet) => void;
  onShelf: (at: number, shelf: ShelfRule) => void;
}) {
  const { currency } = useWorkspace();
  const fields = useShelfFields(draft.key);
  const swap = (at: number, to: number) => {
    const shelves = [...draft.shelves];
    [shelves[at], shelves[to]] = [shelves[to]!, shelves[at]!];
    onChange({ ...draft, shelves });
  };
  const numbers = (at: number) => <Figures one={figures?.shelves[at]} currency={currency} />;
  return (
    <div className="overflow-x-auto rounded-lg border border-line bg-surface">
      <table className="w-full text-sm num" aria-label="Shelves of the set">
        <thead>
          <tr className="border-b border-line text-left text-xs text-soft">
            <th className="w-14 px-2 py-1.5 font-normal">Order</th>
            <th className="px-2 font-normal">Shelf, first match wins</th>
            {["Items", "Families", "Spend", "Sales", "Gap", "ROAS", "ACOS", "Orders", "Prices", "Come, leave"].map(
              (head) => (
                <th key={head} className="px-1.5 text-right font-normal whitespace-nowrap">
                  {head}
                </th>
              ),
            )}
            <td className="w-7" />
          </tr>
        </thead>
        <tbody>
          {draft.shelves.map((shelf, at) => (
            <Fragment key={shelf.key}>
              <tr className="border-b border-line/60">
                <td className="px-2 whitespace-nowrap">
                  <IconButton label={`Move ${shelf.name} up`} disabled={at === 0} onClick={() => swap(at, at - 1)}>
                    <ArrowUp aria-hidden className="size-3.5" />
                  </IconButton>
                  <IconButton
                    label={`Move ${shelf.name} down`}
                    disabled={at === draft.shelves.length - 1}
                    onClick={() => swap(at, at + 1)}
                  >
                    <ArrowDown aria-hidden className="size-3.5" />
                  </IconButton>
                </td>
                <td className="max-w-0 min-w-52 px-2 py-1">
                  <button
                    type="button"
                    aria-expanded={open === shelf.key}
                    className="flex w-full items-center gap-1 text-left"
                    onClick={() => onOpen(open === shelf.key ? null : shelf.key)}
                  >
                    <ChevronRight aria-hidden className={cx("size-3.5 shrink-0", open === shelf.key && "rotate-90")} />
                    {shelf.heat && <HeatGlyph heat={shelf.heat} />}
                    <span className="min-w-0">
                      <b className="block truncate">{shelf.name}</b>
                      <span
                        className="block truncate text-xs text-soft"
                        title={shelfWords(shelf, cuts[at] ?? null, fields, currency)}
                      >
                        {shelfWords(shelf, cuts[at] ?? null, fields, currency)}
                      </span>
                    </span>
                  </button>
                </td>
                {numbers(at)}
                <td className="px-1">
                  <IconButton
                    label={`Remove ${shelf.name}`}
                    onClick={() => onChange({ ...draft, shelves: draft.shelves.filter((_, i) => i !== at) })}
                  >
                    <X aria-hidden className="size-3.5" />
                  </IconButton>
                </td>
              </tr>
              {open === shelf.key && (
                <tr className="border-b border-line/60 bg-paper/50">
                  <td />
                  <td colSpan={12} className="px-2 py-2">
                    <ShelfEditor
                      set={draft}
                      isKept={isKept}
                      shelf={shelf}
                      fields={fields}
                      onChange={(next) => onShelf(at, next)}
                    />
                  </td>
                </tr>
              )}
            </Fragment>
          ))}
          <tr>
            <td className="px-2 text-xs text-soft">last</td>
            <td className="max-w-0 min-w-52 px-2 py-1">
              <input
                aria-label="Name of the last shelf"
                className="w-40 border-b border-line bg-transparent font-semibold"
                value={draft.rest.name}
                onChange={(event) => onChange({ ...draft, rest: { ...draft.rest, name: event.target.value } })}
              />
              <span className="block text-xs text-soft">{restWords(draft)}</span>
            </td>
            {numbers(draft.shelves.length)}
            <td />
          </tr>
        </tbody>
      </table>
    </div>
  );
}

function IconButton({ label, ...rest }: { label: string } & React.ButtonHTMLAttributes<HTMLButtonElement>) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      className="rounded p-0.5 text-soft hover:bg-raised disabled:opacity-30"
      {...rest}
    />
  );
}

function Figures({ one, currency }: { one: LiveFigures["shelves"][number] | undefined; currency: string }) {
  const cell = "px-1.5 text-right whitespace-nowrap";
  if (!one)
    return Array.from({ length: 10 }, (_, i) => (
      <td key={i} className={cx(cell, "text-soft")}>
        …
      </td>
    ));
  const { sums } = one;
  return (
    <>
      <td className={cell}>{formatCount(one.items)}</td>
      <td className={cell}>{formatCount(one.families)}</td>
      <td className={cell}>
        {formatMoney(sums.cost, currency)}
        <span className="block text-xs text-soft">{formatShare(one.spendShare)}</span>
      </td>
      <td className={cell}>
        {formatMoney(sums.revenue, currency)}
        <span className="block text-xs text-soft">{formatShare(one.salesShare)}</span>
      </td>
      <td className={cell}>
        <Gap gap={one.gap} />
      </td>
      <td className={cell}>{formatMetric("roas", METRICS.roas.of(sums), currency)}</td>
      <td className={cell}>{formatMetric("acos", METRICS.acos.of(sums), currency)}</td>
      <td className={cell}>{formatCount(sums.orders)}</td>
      <td className={cx(cell, "text-xs text-soft")}>
        {one.priceFrom === null ? "–" : formatMoney(one.priceFrom, currency)}
        {one.priceTo !== null && <span className="block">to {formatMoney(one.priceTo, currency)}</span>}
      </td>
      <td className={cell} title={`${plural(one.came, "item")} would come, ${one.left} leave`}>
        {one.came === 0 && one.left === 0 ? "–" : `+${formatCount(one.came)} −${formatCount(one.left)}`}
      </td>
    </>
  );
}
