import { NO_PROPOSAL } from "@/core/bid-desk/bid-lines";
import { formatCount, plural } from "@/core/kit/format";
import { formatChange, formatMoney } from "@/core/kit/money";
import { HOUSE_RULES } from "@/core/moves/house-rules";
import type { BidRow } from "@/server/bids/desk";
import { cx } from "@/ui/cx";
import type { TableColumn } from "@/ui/data-table";
import { MoneyCell } from "../money-cell";

/** Two lines of a cell: what counts above, what it stands on below. */
function Two({ above, below, strong = false }: { above: React.ReactNode; below: React.ReactNode; strong?: boolean }) {
  return (
    <span>
      <span className={cx("block truncate leading-tight", strong && "font-semibold")}>{above}</span>
      <span className="block truncate text-xs leading-tight text-soft">{below}</span>
    </span>
  );
}

/** Columns of the bid desk. @param adjusted amounts that somebody typed in place of proposed ones, by key */
export function bidColumns(
  currency: string,
  adjusted: ReadonlyMap<string, number>,
  onAdjust: (line: BidRow, mills: number) => void,
): TableColumn<BidRow>[] {
  const money = (mills: number) => formatMoney(mills, currency);
  return [
    {
      ...{ key: "name", label: "Bid of", width: "1fr", sort: "name" },
      cell: ({ name, key, kind, campaignName }) => (
        <span title={`${name}, ${campaignName}`}>
          <Two strong above={name} below={kind === "item" ? `${key} · ${campaignName}` : campaignName} />
        </span>
      ),
    },
    {
      ...{ key: "clicks", label: "Clicks", width: 78, align: "right", sort: "clicks" },
      about: "Clicks of the last 180 days, and the orders they brought so far.",
      cell: ({ clicks, orders }) => <Two above={formatCount(clicks)} below={plural(orders, "order")} />,
    },
    {
      ...{ key: "worth", label: "Sales a click", width: 100, align: "right", sort: "worth" },
      about: "What a click is expected to bring in sales, by evidence: on its own clicks, or by its kind.",
      cell: ({ worth, isOwn }) =>
        worth === null ? "–" : <Two above={money(worth)} below={isOwn ? "own clicks" : "by its kind"} />,
    },
    {
      key: "goal",
      ...{ label: "Goal", width: 92, align: "right" as const },
      about: "The return in force, and where it comes from.",
      cell: ({ goal }) => (goal ? <Two above={goal.goal.toFixed(2)} below={goal.from} /> : "–"),
    },
    {
      key: "card",
      ...{ label: "Rate card", width: 96, align: "right" as const },
      about: "What the channel tells of a click: typical, and from low to high.",
      cell: ({ card }) =>
        card ? (
          <Two
            above={money(card.typical)}
            below={
              card.low !== null && card.high !== null
                ? `${(card.low / 1000).toFixed(2)} to ${(card.high / 1000).toFixed(2)}`
                : ""
            }
          />
        ) : (
          "–"
        ),
    },
    {
      ...{ key: "bid", label: "Bid now", width: 84, align: "right", sort: "bid" },
      about: "The bid, and what a click has cost.",
      cell: ({ bid, clicks, cost }) => (
        <Two above={money(bid)} below={clicks > 0 ? `${(cost / clicks / 1000).toFixed(2)} paid` : "no click"} />
      ),
    },
    {
      ...{ key: "step", label: "Proposed", width: 132, align: "right", sort: "step" },
      about: "What the method makes of it within the house rules; another amount can be typed.",
      cell: (line) => <Proposed line={line} typed={adjusted.get(line.key)} onAdjust={onAdjust} />,
    },
    {
      ...{ key: "cost", label: "Spend a day", width: 92, align: "right", sort: "cost" },
      cell: ({ expected }) => (expected ? formatChange(expected.cost, currency) : "–"),
    },
    {
      ...{ key: "left", label: "Contribution", width: 132, align: "right", sort: "left" },
      about: "Expected change a day, and the interval that holds the truth four times in five.",
      cell: ({ expected }) => {
        if (!expected) return "–";
        const { contribution } = expected;
        if (!contribution) return "costs not known";
        return (
          <Two
            strong
            above={formatChange(contribution.mean, currency)}
            below={`${formatChange(contribution.low, currency)} to ${formatChange(contribution.high, currency)}`}
          />
        );
      },
    },
  ];
}

function Proposed({
  line,
  typed,
  onAdjust,
}: {
  line: BidRow;
  typed: number | undefined;
  onAdjust: (line: BidRow, mills: number) => void;
}) {
  const { proposed, none, name, bid } = line;
  const limit = proposed?.limitedBy;
  const below =
    typed !== undefined
      ? "typed"
      : limit === "channel"
        ? "least or most there is"
        : limit
          ? HOUSE_RULES[limit].label.toLowerCase()
          : proposed
            ? `${proposed.bid >= bid ? "+" : "−"}${Math.abs(Math.round(100 * (proposed.bid / bid - 1)))} %`
            : none
              ? NO_PROPOSAL[none]
              : "";
  return (
    <span onClick={(event) => event.stopPropagation()}>
      <MoneyCell
        label={`Proposed bid of ${name}`}
        value={typed ?? proposed?.bid ?? bid}
        onSave={(mills) => {
          onAdjust(line, mills);
          return Promise.resolve(true);
        }}
      />
      <span className="block truncate text-xs leading-tight text-soft" title={below}>
        {below}
      </span>
    </span>
  );
}
