"use client";

import { useQueryState } from "nuqs";
import { useState } from "react";
import { toast } from "sonner";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { ChannelView } from "@/server/dispatch/channel-view";
import type { CategoryDemand, Demand, InsideCategory } from "@/server/targets/rate-cards";
import { Button } from "@/ui/button";
import { cx } from "@/ui/cx";
import { TextInput } from "@/ui/field";
import { MiddleCut } from "@/ui/middle-cut";
import { EmptyNote, ErrorNote, Loading } from "@/ui/notes";
import { PageHead, Surface } from "@/ui/page";
import { apiSend, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { GivePlaces, RATE_CARD } from "../give-places";
import { TargetsTabs } from "../tabs";
import { RateCardBox } from "./rate-card-box";

const FROM: Record<Demand["sources"][number]["origin"], string> = {
  channel: "the channel",
  file: "a file",
  pasted: "pasted lines",
};

/** What is searched for, who stands there, and what a click costs: as the channel, files or people told it, and when. */
export default function DemandPage() {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const demand = useApi<Demand>(apiPath("channel/demand"));
  const channel = useApi<ChannelView>(apiPath("channel"));
  const [isGiving, setGiving] = useState(false);
  const askAnew = async () => {
    try {
      await apiSend(apiPath("channel/places"));
      toast.info("Asking the channel what it tells of searches and pages …");
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  const tells = channel.data?.kind === "market" || channel.data?.about?.tellsPlaces === true;
  return (
    <div className="flex flex-col gap-3">
      <PageHead title="Targets" facts={demand.data && sourcesInWords(demand.data)}>
        {tells && <Button onClick={() => void askAnew()}>Ask the channel anew</Button>}
        <Button onClick={() => setGiving(true)}>Take a rate card in</Button>
      </PageHead>
      <TargetsTabs />
      {demand.error && <ErrorNote error={demand.error.failure} />}
      {demand.isPending && <Loading what="demand" />}
      {demand.data?.categories.length === 0 && (
        <EmptyNote
          title="Nothing is known of demand yet"
          action={<Button onClick={() => setGiving(true)}>Take a rate card in</Button>}
        >
          {tells
            ? "The channel is asked once a feed has been read. A rate card can also be pasted, or read from a file."
            : "This channel tells nothing by itself: paste a rate card, or read one from a file. Until then prices stand as –, not known."}
        </EmptyNote>
      )}
      {demand.data && demand.data.categories.length > 0 && (
        <>
          <Categories categories={demand.data.categories} />
          <RateCardBox />
        </>
      )}
      {isGiving && <GivePlaces wanted={RATE_CARD} onClose={() => setGiving(false)} />}
    </div>
  );
}

function sourcesInWords({ sources }: Demand): string {
  return sources
    .map(({ origin, places, from, to }) => {
      const days = from === to ? `on ${to}` : `${from} to ${to}`;
      return `${plural(places, "place")} told by ${FROM[origin]}, ${days}`;
    })
    .join(" · ");
}

/** Where shoppers are, category by category; one opens to its searches and listings. */
function Categories({ categories }: { categories: CategoryDemand[] }) {
  const { currency } = useWorkspace();
  const [open, setOpen] = useQueryState("category", { defaultValue: "" });
  const [q, setQ] = useState("");
  const found = categories
    .filter(({ name }) => name.toLowerCase().includes(q.trim().toLowerCase()))
    .sort((a, b) => (b.views ?? -1) - (a.views ?? -1) || (a.name < b.name ? -1 : 1));
  const most = Math.max(1, ...categories.map(({ views }) => views ?? 0));
  const chosen = categories.find(({ name }) => name === open) ?? found[0];
  return (
    <Surface
      title={`Demand in ${plural(categories.length, "category", "categories")}`}
      aside={
        <TextInput
          type="search"
          aria-label="Search categories"
          placeholder="Search categories"
          className="w-56!"
          value={q}
          onChange={(event) => setQ(event.target.value)}
        />
      }
    >
      <div className="grid grid-cols-[minmax(0,1fr)_460px] gap-5 text-sm">
        <div className="h-88 overflow-y-auto" tabIndex={0} role="region" aria-label="Categories">
          <table className="w-full" aria-label="Demand by category">
            <thead className="sticky top-0 bg-surface">
              <tr className="text-left text-soft">
                <th className="py-1 font-normal">Category</th>
                <th className="w-48 font-normal">Searches a month</th>
                <th className="w-24 text-right font-normal">Typical CPC</th>
              </tr>
            </thead>
            <tbody>
              {found.slice(0, MOST_CATEGORIES).map(({ name, views, typicalCpc }) => (
                <tr key={name} className={cx("border-t border-line/60", chosen?.name === name && "bg-petrol-wash")}>
                  <td className="py-1">
                    <button
                      type="button"
                      className="text-left hover:underline"
                      aria-pressed={chosen?.name === name}
                      onClick={() => void setOpen(name)}
                    >
                      {name || <span className="text-soft">no category told</span>}
                    </button>
                  </td>
                  <td>
                    <span className="flex items-center gap-2 num">
                      <span className="h-2.5 rounded-sm bg-petrol" style={{ width: (84 * (views ?? 0)) / most }} />
                      {views === null ? "–" : formatCount(views)}
                    </span>
                  </td>
                  <td className="text-right num">{typicalCpc === null ? "–" : formatMoney(typicalCpc, currency)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {found.length > MOST_CATEGORIES && (
            <p className="py-1 text-soft">The {MOST_CATEGORIES} most searched; search for the others.</p>
          )}
        </div>
        {chosen && <OneCategory name={chosen.name} />}
      </div>
    </Surface>
  );
}

const MOST_CATEGORIES = 300;

function OneCategory({ name }: { name: string }) {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const inside = useApi<InsideCategory>(apiPath(`channel/demand/inside?category=${encodeURIComponent(name)}`));
  const money = (mills: number | null) => (mills === null ? "–" : formatMoney(mills, currency));
  if (inside.error) return <ErrorNote error={inside.error.failure} />;
  if (!inside.data) return <Loading what="the category" />;
  const { queries, listings, total } = inside.data;
  const more = total - queries.length - listings.length;
  return (
    <div className="h-88 overflow-y-auto" tabIndex={0} role="region" aria-label={`Inside ${name}`}>
      <h3 className="font-semibold">What people search for, a month, and what a click costs</h3>
      <ul className="mb-3">
        {queries.map((query) => (
          <li key={query.name} className="grid grid-cols-[minmax(0,1fr)_64px_64px] gap-3">
            <span className="truncate" title={query.name}>
              {query.name}
            </span>
            <span className="text-right num">{query.views === null ? "–" : formatCount(query.views)}</span>
            <span className="text-right num">{money(query.typical)}</span>
          </li>
        ))}
      </ul>
      <h3 className="font-semibold">Who stands there</h3>
      <ul>
        {listings.map((listing) => (
          <li key={listing.name} className="flex justify-between gap-3">
            <MiddleCut text={listing.title || listing.name} />
            <span className="whitespace-nowrap text-soft num">
              {money(listing.price)}
              {listing.rating !== null && ` · ${listing.rating.toFixed(1)} of 5`}
              {listing.reviews !== null && `, ${plural(listing.reviews, "review")}`}
            </span>
          </li>
        ))}
      </ul>
      {more > 0 && <p className="mt-1 text-soft num">and {formatCount(more)} more with fewer views</p>}
    </div>
  );
}
