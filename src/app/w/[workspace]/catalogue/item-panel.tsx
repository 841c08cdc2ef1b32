"use client";

import Link from "next/link";
import { useState } from "react";
import { DEFAULT_HEAT_RULES } from "@/core/evidence/heat";
import { formatMetric, formatShare } from "@/core/kit/format";
import { METRICS, type MetricKey } from "@/core/kit/metrics";
import { formatMoney } from "@/core/kit/money";
import { LINK_STATE_LABEL, type LinkState } from "@/core/catalogue/check-page";
import type { ItemDetail } from "@/server/across/catalogue/item-detail";
import { Button } from "@/ui/button";
import { DayStrip } from "@/ui/day-strip";
import { SidePanel } from "@/ui/dialog";
import { EvidenceBar } from "@/ui/evidence-bar";
import { HeatMark } from "@/ui/heat";
import { ItemTag } from "@/ui/item-tag";
import { ErrorNote, Loading } from "@/ui/notes";
import { useApi } from "../../../_lib/api";
import { useApiPath, useDays, useWorkspace } from "../../../_lib/workspace";
import { ItemActionDialog, type ItemAction } from "../item-actions";
import { LaunchDialog } from "../launch-dialog";
import { Places } from "./item-places";
import { ServeDay } from "./serve-day";
import { LIVE, WITH_BASKET } from "../live-words";
import { useEdit } from "../use-edit";
import { Margin, NotesOn, PriceHistory } from "./item-sections";
import { ShelfStays } from "./shelf-stays";

const SHOWN: MetricKey[] = ["cost", "revenue", "roas", "orders", "clicks", "cpc", "cvr", "storeRevenue"];

/** Everything about one item, and why it is where it is. */
export function ItemPanel({
  id,
  onClose,
  onOpen,
}: {
  id: string | null;
  onClose: () => void;
  onOpen: (id: string) => void;
}) {
  const apiPath = useApiPath();
  const [days] = useDays();
  const item = useApi<ItemDetail>(id === null ? null : apiPath(`items/${encodeURIComponent(id)}?days=${days}`));
  return (
    <SidePanel
      open={id !== null}
      onClose={onClose}
      title={
        item.data ? <ItemTag id={item.data.id} title={item.data.title} image={item.data.image} large /> : (id ?? "")
      }
    >
      {item.error && <ErrorNote error={item.error.failure} />}
      {!item.data && !item.error && <Loading what="the item" />}
      {item.data && <Details item={item.data} days={days} onOpen={onOpen} />}
    </SidePanel>
  );
}

function Details({ item, days, onOpen }: { item: ItemDetail; days: number; onOpen: (id: string) => void }) {
  const { currency, goal, slug } = useWorkspace();
  const edit = useEdit();
  const [action, setAction] = useState<ItemAction | null>(null);
  const [isLaunch, setLaunch] = useState(false);
  const money = (amount: number) => formatMoney(amount, currency);
  return (
    <div className="space-y-5">
      <div className="flex flex-wrap items-center gap-2">
        <HeatMark heat={item.heat} orders={item.sums.orders} isLong />
        <span className="text-soft">·</span>
        <span>{item.availability}</span>
        <span className="text-soft">·</span>
        <span className="num">{money(item.price)}</span>
        <span className="ml-auto flex gap-2">
          <Button onClick={() => setAction("item-bid")}>Set bid</Button>
          <Button onClick={() => setLaunch(true)}>Launch</Button>
          {(item.withBasket ?? item.live).keptOut.length > 0 && (
            <Button onClick={() => void edit({ action: "include", items: [item.id] })}>Include again</Button>
          )}
          {!(item.withBasket ?? item.live).keptOut.some(({ campaign }) => campaign === null) && (
            <Button onClick={() => setAction("exclude")}>Exclude</Button>
          )}
        </span>
      </div>
      <section>
        <h3 className="mb-1 font-semibold">
          {item.sums.clicks === 0 ? "Return to expect, by its kind" : `Return over ${days} days`}
        </h3>
        {item.pooled ? (
          <>
            <EvidenceBar {...item.pooled} goal={item.goal} />
            <p className="mt-1 text-sm num">
              {item.isLosing
                ? "It costs as much as it sells for, so no return pays."
                : `Chance of reaching ${item.goalFrom === "break-even" ? `its break-even of ${item.goal.toFixed(1)}, above the goal of ${goal}` : "the goal"}: ${formatShare(item.chance)}.`}{" "}
              {item.sums.clicks === 0
                ? "Nobody clicked it yet: this is what its category, its price and where it was shown lead to expect."
                : item.sums.clicks < DEFAULT_HEAT_RULES.leastClicks &&
                  "So little evidence of its own leans on its kind."}
            </p>
          </>
        ) : (
          <p className="text-soft">No clicks here or in its category yet, so nothing can be said.</p>
        )}
        <dl className="mt-3 grid grid-cols-4 gap-x-3 gap-y-2">
          {SHOWN.map((key) => (
            <div key={key} title={METRICS[key].about}>
              <dt className="text-xs text-soft">{METRICS[key].label}</dt>
              <dd className="font-semibold num">{formatMetric(key, METRICS[key].of(item.sums), currency)}</dd>
            </div>
          ))}
        </dl>
      </section>
      {item.series.some((point) => point.cost > 0) && (
        <section>
          <h3 className="mb-1 font-semibold">Spend and ad sales by day</h3>
          <DayStrip days={item.series} goal={item.goal} currency={currency} className="h-14" />
          <p className="text-xs text-soft">Sales stand above the edge, spend hangs below; the marks are the goal.</p>
        </section>
      )}
      <section>
        <h3 className="mb-1 font-semibold">Why it is where it is</h3>
        <ul className="space-y-1">
          {item.shelves.map((shelf) => (
            <ShelfStays key={shelf.set} shelf={shelf} stays={item.stays.filter(({ set }) => set === shelf.set)} />
          ))}
        </ul>
        <h4 className="mt-2 text-sm font-semibold">{LIVE}</h4>
        <Places places={item.live} />
        <ServeDay homes={item.live.homes} />
        {item.withBasket && (
          <>
            <h4 className="mt-2 text-sm font-semibold">{WITH_BASKET}</h4>
            <Places places={item.withBasket} />
          </>
        )}
        {item.derived.length > 0 && (
          <ul className="mt-2 space-y-1 text-sm">
            {item.derived.map((field) => (
              <li key={field.key}>
                <Link className="text-petrol underline" href={`/w/${slug}/catalogue/fields/${field.key}`}>
                  {field.name}
                </Link>
                : <b>{field.values.filter(Boolean).join(" · ") || "–"}</b>{" "}
                <span className="text-soft">
                  {field.rule === null ? "caught by no rule" : `by rule ${field.rule + 1}`}
                </span>
              </li>
            ))}
          </ul>
        )}
        {item.page && item.page.state !== "fine" && (
          <p className="mt-1 text-sm text-ember">
            Its page: {LINK_STATE_LABEL[item.page.state as LinkState].toLowerCase()}. {item.page.detail}
          </p>
        )}
        {item.warnings.length > 0 && <p className="mt-1 text-sm text-ember">Feed: {item.warnings.join(", ")}.</p>}
      </section>
      <Margin item={item} />
      <PriceHistory item={item} />
      <NotesOn item={item} />
      {item.members.length > 1 && (
        <section>
          <h3 className="mb-1 font-semibold">Its family</h3>
          <ul>
            {item.members.map((member) => (
              <li key={member.id}>
                {member.id === item.id ? (
                  <span className="text-soft">{member.title}, this one</span>
                ) : (
                  <button
                    type="button"
                    className="text-left text-petrol hover:underline"
                    onClick={() => onOpen(member.id)}
                  >
                    {member.title}
                  </button>
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
      {item.pictures.length > 1 && (
        <p className="text-sm text-soft num">{item.pictures.length} pictures in the feed.</p>
      )}
      <section>
        <h3 className="mb-1 font-semibold">In the feed</h3>
        <dl className="grid grid-cols-[130px_1fr] gap-x-3 gap-y-1 text-sm">
          {item.fields.map(({ name, value }) => (
            <div key={name} className="contents">
              <dt className="truncate text-soft">{name}</dt>
              <dd className="break-words">{value || <span className="text-soft">–</span>}</dd>
            </div>
          ))}
        </dl>
      </section>
      {isLaunch && (
        <LaunchDialog items={[item.id]} suggestion={item.title.slice(0, 60)} onClose={() => setLaunch(false)} />
      )}
      <ItemActionDialog action={action} items={[item.id]} onClose={() => setAction(null)} />
    </div>
  );
}
