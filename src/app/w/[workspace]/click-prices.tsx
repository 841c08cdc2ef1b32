"use client";

import { plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { RateCards } from "@/server/targets/rate-cards";
import { cx } from "@/ui/cx";
import { useAsk } from "../../_lib/api";
import { useApiPath, useWorkspace } from "../../_lib/workspace";

/** Items whose rate card is asked for; of more a range would say little. */
const MOST_CARDS = 100;

/** What clicks on the chosen items cost, by the channel's rate card, beside the bid that is being set. */
export function ClickPrices({ items }: { items: string[] }) {
  const apiPath = useApiPath();
  const { currency } = useWorkspace();
  const isFew = items.length > 0 && items.length <= MOST_CARDS;
  const { data, isError } = useAsk<RateCards>(apiPath("rate-card"), { items }, { enabled: isFew });
  const cards = data?.items.flatMap(({ card }) => card ?? []) ?? [];
  if (!isFew || isError) return null;
  // As high as the answer, so that what stands below stays where it is.
  if (cards.length === 0) {
    return (
      <p className="min-h-14 rounded-md bg-petrol-wash px-3 py-2 text-sm text-soft">
        {data
          ? "–, not known: no rate card tells of them. Paste or read one in under Targets, Demand."
          : "Asking the rate card …"}
      </p>
    );
  }
  const range = (key: "low" | "typical" | "high") => {
    const told = cards.flatMap((card) => card[key] ?? []);
    if (told.length === 0) return "–";
    const [least, most] = [Math.min(...told), Math.max(...told)];
    const from = formatMoney(least, currency);
    return least === most ? from : `${from} to ${formatMoney(most, currency)}`;
  };
  return (
    <p className="min-h-14 rounded-md bg-petrol-wash px-3 py-2 text-sm num">
      Rate card: a click costs <b>{range("typical")}</b> where half of the auctions are won, {range("low")} for a fifth
      of them, {range("high")} for most of those for the best slot.
    </p>
  );
}

/** What clicks on a group's items cost, by the channel's rate card, below its bid while that is edited. */
export function GroupClickPrices({ group }: { group: string }) {
  const apiPath = useApiPath();
  const { currency } = useWorkspace();
  const { data, isPending } = useAsk<RateCards>(apiPath("rate-card"), { groups: [group] });
  const found = data?.groups[0];
  const card = found?.card;
  if (!card) {
    return <span className="block text-xs text-soft">{isPending ? "Asking the rate card …" : "No rate card"}</span>;
  }
  const lines = [
    ["low", card.low],
    ["typical", card.typical],
    ["high", card.high],
  ] as const;
  return (
    <span
      role="note"
      aria-label={`Rate card of its ${plural(found.items, "item")}`}
      className="block py-0.5 text-right text-xs text-soft num"
    >
      {lines.map(([word, price]) => (
        <span key={word} className={cx("block", word === "typical" && "text-ink")}>
          {word} {price === null ? "–" : formatMoney(price, currency)}
        </span>
      ))}
    </span>
  );
}
