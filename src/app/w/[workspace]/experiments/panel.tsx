"use client";

import { useState } from "react";
import { toast } from "sonner";
import { MEASURES } from "@/core/experiments/measures";
import { amountInWords, changeOfMeasure } from "@/core/experiments/verdict";
import { formatDay } from "@/core/kit/days";
import { formatMoment, formatShare, plural } from "@/core/kit/format";
import type { ExperimentView } from "@/server/experiments/experiments";
import type { Ended } from "@/server/experiments/run";
import { Button } from "@/ui/button";
import { cx } from "@/ui/cx";
import { SidePanel } from "@/ui/dialog";
import { ErrorNote, Loading } from "@/ui/notes";
import { Who } from "@/ui/who";
import { apiDelete, apiSend, toastError, useApi } from "../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../_lib/workspace";
import { useChange } from "../use-edit";
import { EffectChart } from "./effect-chart";
import { chanceInWords, DESIGN_LABEL, stageInWords } from "./words";

/** One experiment: what it found, day by day, what disturbed it, and how it is ended. */
export function ExperimentPanel({ id, onClose }: { id: number; onClose: () => void }) {
  const apiPath = useApiPath();
  const found = useApi<ExperimentView>(apiPath(`experiments/${id}`));
  const view = found.data;
  return (
    <SidePanel
      open
      onClose={onClose}
      title={
        <>
          <span className="block font-display text-lg font-semibold">{view?.name ?? "Experiment"}</span>
          {view && (
            <span className="block text-sm text-soft">
              {view.change} · {DESIGN_LABEL[view.definition.design].toLowerCase()} · {stageInWords(view)}
            </span>
          )}
        </>
      }
    >
      {found.error ? (
        <ErrorNote error={found.error.failure} />
      ) : view ? (
        <Details view={view} onClose={onClose} />
      ) : (
        <Loading what="the experiment" />
      )}
    </SidePanel>
  );
}

function Details({ view, onClose }: { view: ExperimentView; onClose: () => void }) {
  const { currency, timeZone } = useWorkspace();
  const { definition, effect, month, points, breaches, soldOut } = view;
  const { measure } = definition;
  const amount = (value: number) => amountInWords(measure, value, currency);
  const change = (value: number) => changeOfMeasure(measure, value, currency);
  return (
    <div className="space-y-4 text-sm">
      {view.hypothesis && <p className="border-l-2 border-line pl-3 italic">{view.hypothesis}</p>}
      <p className="text-base font-semibold num">{view.verdict}</p>
      {effect && month && (
        <p className="num">
          {effect.known < 1 && `${formatShare(effect.known)} of what the plan comes to know. `}
          For all it was tried on: {change(month.mean)} a month ({change(month.low)} to {change(month.high)}). Chance
          that it brings more: {chanceInWords(effect.chance)}.
        </p>
      )}
      {view.isHarmful && (
        <p className="font-semibold text-ember-strong">
          {view.ended?.how === "harm"
            ? "It was stopped: that it does harm was sure enough."
            : "That it does harm is sure enough to stop."}
        </p>
      )}
      {points.length > 1 && <EffectChart points={points} measure={measure} least={definition.least} />}
      <Facts
        rows={[
          ["Measure", MEASURES[measure].label],
          ["Least effect that matters", `${amount(definition.least)} a day`],
          [
            "Found four times of five",
            view.leastFound === null
              ? "nothing: too few and too uneven pairs"
              : `from ${amount(view.leastFound)} a day on`,
          ],
          ["Pairs", view.pairs.toLocaleString("en")],
          [
            "Days",
            view.start === null
              ? `${definition.days} planned`
              : `${view.days} of ${definition.days}, ${view.counted} count${view.counted < view.days ? "; the others wait for late orders or for the other day of their pair, or did not stand as planned" : ""}`,
          ],
          ["Began", view.start === null ? "–" : formatDay(view.start)],
          ...(view.standing !== null && view.dayByDay.length === 0 && view.standing < view.changes
            ? [["Changes that stand", `${view.standing} of ${view.changes}`] as [string, string]]
            : []),
          ["Stops for harm", definition.stopsForHarm ? "by itself" : "never by itself"],
          ...(soldOut
            ? [
                ["Can’t be bought now", `${soldOut.with} with the change, ${soldOut.without} without`] as [
                  string,
                  string,
                ],
              ]
            : []),
        ]}
      />
      {view.dayByDay.length > 0 && <DayByDay days={view.dayByDay} />}
      <section>
        <h2 className="mb-1 font-semibold">Changes from elsewhere in the same campaigns</h2>
        {breaches.length === 0 ? (
          <p className="text-soft">None so far.</p>
        ) : (
          <ul className="space-y-1">
            {breaches.map((breach) => (
              <li key={breach.dispatch}>
                {formatDay(breach.day)}, dispatch {breach.dispatch}, <Who who={breach.who} />:{" "}
                {plural(breach.changes, "change")}
                <span className="block text-soft">{breach.words.join(" · ")}</span>
              </li>
            ))}
          </ul>
        )}
      </section>
      <Ending view={view} onClose={onClose} />
      <Learning view={view} />
      {view.around.length > 0 && (
        <details>
          <summary className="cursor-pointer font-semibold">What else happened</summary>
          <ul className="mt-1 space-y-0.5 text-soft">
            {view.around.map(({ at, who, what }, index) => (
              <li key={index}>
                {formatMoment(at, timeZone)}, <Who who={who} />: {what}
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

function Facts({ rows }: { rows: [string, string][] }) {
  return (
    <dl className="grid grid-cols-[11rem_1fr] gap-x-3 gap-y-1">
      {rows.map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="text-soft">{name}</dt>
          <dd className="num">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

/** The days of a plan, week by week: with the change filled, without it empty; what did not stand as planned is crossed. */
function DayByDay({ days }: { days: ExperimentView["dayByDay"] }) {
  return (
    <section>
      <h2 className="mb-1 font-semibold">Days with the change and without</h2>
      <ul aria-label="Days of the plan" className="grid grid-cols-7 gap-1">
        {days.map(({ day, on, stood }) => {
          const isBroken = stood !== null && stood !== on;
          const words = `${formatDay(day)}: ${on ? "with the change" : "without"}${stood === null ? ", to come" : isBroken ? ", did not stand" : ""}`;
          return (
            <li
              key={day}
              title={words}
              className={cx(
                "rounded border px-1 py-0.5 text-center text-xs num",
                on ? "border-petrol bg-petrol-wash" : "border-line",
                stood === null && "text-soft",
                isBroken && "line-through",
              )}
            >
              {formatDay(day).slice(5)}
              <span className="sr-only">{on ? " with" : " without"}</span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

const HOW = {
  "take back": { label: "Take it back", words: "taken back" },
  "for all": { label: "Make it for all", words: "made for all" },
  leave: { label: "Leave it as it is", words: "left as it is" },
} as const;

function Ending({ view, onClose }: { view: ExperimentView; onClose: () => void }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const change = useChange();
  const [busy, setBusy] = useState(false);
  if (view.stage === "ended") return null;
  if (view.stage === "dropped") {
    const forget = async () => {
      try {
        await apiDelete(apiPath(`experiments/${view.id}`));
        onClose();
      } catch (error) {
        toastError(error);
      }
      await refresh();
    };
    return <Button onClick={() => void forget()}>Forget it</Button>;
  }
  const end = async (how: keyof typeof HOW) => {
    setBusy(true);
    try {
      const { changes, overtaken } = await change<Ended>(`experiments/${view.id}/end`, { how });
      toast.success(`“${view.name}” is ended: ${HOW[how].words}`, {
        description: `${plural(changes, "change")} in the basket${overtaken > 0 ? `; ${plural(overtaken, "record")} changed since and stay` : ""}.`,
      });
    } catch (error) {
      toastError(error);
    }
    await refresh();
    setBusy(false);
  };
  return (
    <section className="space-y-2 rounded-md bg-raised p-3">
      <h2 className="font-semibold">End it</h2>
      <p>
        {view.changes === 1 ? "One record" : `${view.changes.toLocaleString("en")} records`} changed for the half that
        goes with it. What ending changes goes into the basket; results from then on do not count any more.
      </p>
      <div className="flex flex-wrap gap-2">
        {waysToEnd(view).map((how) => (
          <Button
            key={how}
            disabled={busy}
            look={how === preferred(view) ? "ember" : "plain"}
            onClick={() => void end(how)}
          >
            {HOW[how].label}
          </Button>
        ))}
      </div>
    </section>
  );
}

/** Days stand with the change or without as the plan has it, so leaving them is no end. */
function waysToEnd({ definition }: ExperimentView): (keyof typeof HOW)[] {
  const all = Object.keys(HOW) as (keyof typeof HOW)[];
  return definition.design === "days" ? all.filter((how) => how !== "leave") : all;
}

/** What the finding speaks for; nothing where it is open. */
function preferred({ finding, definition }: ExperimentView): keyof typeof HOW | null {
  if (MEASURES[definition.measure].more !== "better") return null;
  return finding === "more" ? "for all" : finding === "less" ? "take back" : null;
}

/** What was learned, which becomes a house rule with where it comes from. */
function Learning({ view }: { view: ExperimentView }) {
  const { timeZone } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [text, setText] = useState(view.learned?.text ?? "");
  if (view.stage === "waiting" || view.stage === "dropped") return null;
  const keep = async (words: string) => {
    try {
      await apiSend(apiPath(`experiments/${view.id}/rule`), { text: words }, "PUT");
      toast.success(words === "" ? "It is no rule any more" : "It stands among the house rules");
    } catch (error) {
      toastError(error);
    }
    await refresh();
  };
  return (
    <form
      className="space-y-2"
      onSubmit={(event) => {
        event.preventDefault();
        void keep(text.trim());
      }}
    >
      <label className="block">
        <span className="mb-1 block font-semibold">What was learned</span>
        <textarea
          className="w-full rounded-md border border-line bg-surface px-2 py-1"
          rows={2}
          maxLength={400}
          placeholder={view.verdict}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      </label>
      {view.learned && (
        <p className="text-soft">
          A house rule since {formatMoment(view.learned.at, timeZone)}, <Who who={view.learned.by} />
        </p>
      )}
      <div className="flex gap-2">
        {text.trim() === "" && <Button onClick={() => setText(view.verdict)}>Take the verdict’s words</Button>}
        <Button type="submit" disabled={text.trim() === "" || text.trim() === view.learned?.text}>
          Make it a house rule
        </Button>
        {view.learned && (
          <Button
            look="quiet"
            onClick={() => {
              setText("");
              void keep("");
            }}
          >
            No rule any more
          </Button>
        )}
      </div>
    </form>
  );
}
