"use client";

import { useState } from "react";
import { toast } from "sonner";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { Placement } from "@/core/market/world-types";
import type { MarketCategory, MarketView } from "@/server/market/look";
import { MiddleCut } from "@/ui/middle-cut";
import { Button } from "@/ui/button";
import { cx } from "@/ui/cx";
import { Field, Select, TextInput } from "@/ui/field";
import { ErrorNote, Loading } from "@/ui/notes";
import { PageHead, Surface } from "@/ui/page";
import { apiSend, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { ResultsTabs } from "../tabs";
import { CompareVersions } from "./compare-versions";
import { RateCardBox } from "./rate-card-box";

const PAUSES: [seconds: number, label: string][] = [
  [0, "as fast as it goes"],
  [1, "a day a second"],
  [5, "a day every 5 seconds"],
];

/** The stand-in for the outside world: run its days, look at it, and try two versions of the account on it. */
export default function MarketPage() {
  const apiPath = useApiPath();
  const market = useApi<MarketView>(apiPath("market"));
  return (
    <div className="flex flex-col gap-3">
      <PageHead
        title="Results"
        facts={
          market.data &&
          `Test market, seed ${market.data.seed} · ${market.data.lastDay ? `run to ${market.data.lastDay}` : "not run yet"}${
            market.data.lateOrders > 0 ? ` · ${plural(market.data.lateOrders, "order")} still to come in` : ""
          }`
        }
      />
      <ResultsTabs />
      {market.error && <ErrorNote error={market.error.failure} />}
      {market.isPending && <Loading what="the market" />}
      {market.data && (
        <>
          <div className="grid grid-cols-2 gap-3">
            <RunDays view={market.data} />
            <CompareVersions />
          </div>
          <Demand categories={market.data.categories} nextDay={market.data.nextDay} />
          <div className="grid grid-cols-2 gap-3">
            <RateCardBox />
            <DayShape hours={market.data.hours} />
          </div>
          <Placements placements={market.data.placements} />
        </>
      )}
    </div>
  );
}

function RunDays({ view }: { view: MarketView }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [days, setDays] = useState(7);
  const [pause, setPause] = useState(0);
  const [from, setFrom] = useState("");
  const [seed, setSeed] = useState("");
  const [busy, setBusy] = useState(false);
  const run = async () => {
    setBusy(true);
    try {
      await apiSend(apiPath("market/run"), { days, pause, ...(from ? { from } : {}), ...(seed ? { seed } : {}) });
      toast.info(`Running ${plural(days, "day")} of the test market. You can go on meanwhile.`);
      await refresh();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  return (
    <Surface title="Run days">
      <div className="grid grid-cols-2 gap-3 text-sm">
        <Field label="Days to run">
          {(props) => (
            <Select {...props} value={days} onChange={(event) => setDays(Number(event.target.value))}>
              {[1, 7, 14, 30, 90].map((choice) => (
                <option key={choice} value={choice}>
                  {plural(choice, "day")}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="Speed">
          {(props) => (
            <Select {...props} value={pause} onChange={(event) => setPause(Number(event.target.value))}>
              {PAUSES.map(([seconds, label]) => (
                <option key={seconds} value={seconds}>
                  {label}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="First day" hint={view.nextDay ? `Else ${view.nextDay}, the day after the last.` : "Else today."}>
          {(props) => (
            <TextInput
              {...props}
              type="date"
              value={from}
              min={view.nextDay ?? undefined}
              onChange={(event) => setFrom(event.target.value)}
            />
          )}
        </Field>
        <Field label="Seed of the draws" hint="The same seed on the same account gives the same days.">
          {(props) => (
            <TextInput
              {...props}
              value={seed}
              placeholder={view.seed}
              maxLength={60}
              onChange={(event) => setSeed(event.target.value)}
            />
          )}
        </Field>
      </div>
      <div className="mt-3 flex justify-end">
        <Button look="ember" disabled={busy} onClick={() => void run()}>
          Run the test market
        </Button>
      </div>
    </Surface>
  );
}

/** Where shoppers are, category by category; one opens to its queries and rivals. */
function Demand({ categories, nextDay }: { categories: MarketCategory[]; nextDay: string | null }) {
  const { currency } = useWorkspace();
  const [open, setOpen] = useState("");
  const sorted = [...categories].sort((a, b) => b.viewsNext - a.viewsNext);
  const most = Math.max(1, ...sorted.map(({ viewsNext }) => viewsNext));
  const chosen = categories.find(({ name }) => name === open);
  return (
    <Surface title={`Demand${nextDay ? ` on ${nextDay}` : ""}`}>
      <div className="grid grid-cols-[minmax(0,1fr)_420px] gap-5 text-sm">
        <div className="max-h-80 overflow-y-auto" tabIndex={0} role="region" aria-label="Categories">
          <table className="w-full" aria-label="Demand by category">
            <thead className="sticky top-0 bg-surface">
              <tr className="text-left text-soft">
                <th className="py-1 font-normal">Category</th>
                <th className="w-40 font-normal">Searches a day</th>
                <th className="w-20 text-right font-normal">Usually</th>
                <th className="w-20 text-right font-normal">Peak</th>
                <th className="w-24 text-right font-normal">Typical CPC</th>
              </tr>
            </thead>
            <tbody>
              {sorted.map((category) => (
                <tr
                  key={category.name}
                  className={cx("border-t border-line/60", open === category.name && "bg-petrol-wash")}
                >
                  <td className="py-1">
                    <button
                      type="button"
                      className="text-left hover:underline"
                      aria-pressed={open === category.name}
                      onClick={() => setOpen(open === category.name ? "" : category.name)}
                    >
                      {category.name}
                    </button>
                  </td>
                  <td>
                    <span className="flex items-center gap-2 num">
                      <span
                        className="h-2.5 rounded-sm bg-petrol"
                        style={{ width: (84 * category.viewsNext) / most }}
                      />
                      {formatCount(category.viewsNext)}
                    </span>
                  </td>
                  <td className="text-right text-soft num">{formatCount(category.views)}</td>
                  <td className="text-right text-soft num">{category.peak}</td>
                  <td className="text-right num">{formatMoney(category.typicalCpc, currency)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        {chosen ? (
          <div className="max-h-80 overflow-y-auto" tabIndex={0} role="region" aria-label={`Inside ${chosen.name}`}>
            <h3 className="font-semibold">What people search for</h3>
            <ul className="mb-3">
              {chosen.queries.map(({ label, queryClass, views }) => (
                <li key={label} className="flex justify-between gap-3">
                  <span className="truncate">
                    {label} <span className="text-xs text-soft">{queryClass.replace("-", " ")}</span>
                  </span>
                  <span className="num">{views}</span>
                </li>
              ))}
            </ul>
            <h3 className="font-semibold">Rivals</h3>
            <ul>
              {chosen.rivals.map((rival) => (
                <li key={rival.id} className="flex justify-between gap-3">
                  <MiddleCut text={rival.title} />
                  <span className="whitespace-nowrap text-soft num">
                    {formatMoney(rival.price, currency)} · {rival.rating.toFixed(1)} of 5,{" "}
                    {plural(rival.reviews, "review")}
                  </span>
                </li>
              ))}
            </ul>
          </div>
        ) : (
          <p className="text-soft">
            Choose a category to see what people search for there, and against whom you stand.
          </p>
        )}
      </div>
    </Surface>
  );
}

/** The shop's day: when people look, and when they buy. */
function DayShape({ hours }: { hours: MarketView["hours"] }) {
  const top = Math.max(...hours.map(({ share }) => share));
  return (
    <Surface title="The day">
      <div
        className="flex h-28 items-end gap-1"
        role="img"
        aria-label="Traffic by hour: little at night, most at eight in the evening"
      >
        {hours.map(({ share, buying }, hour) => (
          <span
            key={hour}
            className="flex flex-1 flex-col items-center gap-1"
            title={`${hour}:00: ${(100 * share).toFixed(1)} % of traffic, buys ${buying.toFixed(2)} times as often`}
          >
            <span
              className={cx("w-full rounded-t-sm", buying >= 1 ? "bg-petrol" : "bg-cool")}
              style={{ height: (88 * share) / top }}
            />
            <span className="text-[10px] text-soft num">{hour % 6 === 0 ? hour : ""}</span>
          </span>
        ))}
      </div>
      <p className="text-xs text-soft">
        Traffic by hour; darker where people buy more often than on average. A campaign that runs dry before the evening
        misses the best of the day.
      </p>
    </Surface>
  );
}

/** Placements shown at once; the others are found by search. */
const MOST_PLACEMENTS = 100;

function Placements({ placements }: { placements: Omit<Placement, "ctr" | "cvr">[] }) {
  const [q, setQ] = useState("");
  const found = placements.filter(({ address, topic, name }) =>
    `${address} ${topic} ${name}`.toLowerCase().includes(q.toLowerCase()),
  );
  return (
    <Surface
      title={`Partner placements, ${formatCount(found.length)} of ${formatCount(placements.length)}`}
      aside={
        <TextInput
          aria-label="Search placements"
          type="search"
          placeholder="Search placements"
          className="w-56!"
          value={q}
          onChange={(event) => setQ(event.target.value)}
        />
      }
    >
      <div className="max-h-72 overflow-y-auto text-sm" tabIndex={0} role="region" aria-label="Placements, scrolling">
        <table className="w-full" aria-label="Placements">
          <thead className="sticky top-0 bg-surface">
            <tr className="text-left text-soft">
              <th className="py-1 font-normal">Address</th>
              <th className="font-normal">Shown to advertisers as</th>
              <th className="font-normal">Kind</th>
              <th className="font-normal">Subject</th>
              <th className="text-right font-normal">Views a day</th>
            </tr>
          </thead>
          <tbody>
            {[...found]
              .sort((a, b) => b.volume - a.volume)
              .slice(0, MOST_PLACEMENTS)
              .map(({ address, name, kind, topic, isUnsafe, volume }) => (
                <tr key={address} className="border-t border-line/60">
                  <td className="py-0.5 font-mono text-xs">{address}</td>
                  <td>{name}</td>
                  <td>{kind}</td>
                  <td>
                    {topic}
                    {isUnsafe && <b className="ml-2 text-ember">unsafe</b>}
                  </td>
                  <td className="text-right num">{formatCount(volume)}</td>
                </tr>
              ))}
          </tbody>
        </table>
        {found.length > MOST_PLACEMENTS && (
          <p className="py-1 text-soft">The {MOST_PLACEMENTS} with the most views; search for the others.</p>
        )}
      </div>
    </Surface>
  );
}
