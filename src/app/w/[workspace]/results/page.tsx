"use client";

import { parseAsString, parseAsStringLiteral, useQueryStates } from "nuqs";
import { useState } from "react";
import { toast } from "sonner";
import { formatMetric, plural } from "@/core/kit/format";
import { METRICS, type MetricKey, type Sums } from "@/core/kit/metrics";
import type { ResultLine, ResultsView, SeriesPoint } from "@/server/results/results";
import { BalanceBar, Gap } from "@/ui/balance-bar";
import { Button, buttonClasses } from "@/ui/button";
import { cx } from "@/ui/cx";
import { Select } from "@/ui/field";
import { EmptyNote, ErrorNote, Loading } from "@/ui/notes";
import { PageHead, Surface } from "@/ui/page";
import Link from "next/link";
import { apiSend, toastError, useApi } from "../../../_lib/api";
import { useApiPath, useDays, useRefresh, useWorkspace } from "../../../_lib/workspace";
import { MoneyCell } from "../money-cell";
import { useEdit } from "../use-edit";
import { ResultsChart } from "./results-chart";
import type { AccountLine } from "@/server/planogram/account";

const LEVELS = ["campaign", "adGroup", "shelf", "item"] as const;
const LEVEL_LABEL: Record<(typeof LEVELS)[number], string> = {
  campaign: "Campaigns",
  adGroup: "Ad groups",
  shelf: "Shelves",
  item: "Items",
};

const HEADLINES: MetricKey[] = ["cost", "revenue", "roas", "acos", "tacos", "orders", "cpc", "storeRevenue"];

/** What happened: against the goal, against the days before, by level; and running more days of the test market. */
export default function ResultsPage() {
  const { slug, currency, goal } = useWorkspace();
  const [days] = useDays();
  const apiPath = useApiPath();
  const [state, setState] = useQueryStates({
    level: parseAsStringLiteral(LEVELS).withDefault("campaign"),
    key: parseAsString.withDefault(""),
    sort: parseAsString.withDefault("-cost"),
  });
  const level = state.level === "item" ? "campaign" : state.level;
  const results = useApi<ResultsView>(apiPath(`results?level=${level}&days=${days}`));
  const scope = state.key === "" ? "level=all" : `level=${level}&key=${encodeURIComponent(state.key)}`;
  const series = useApi<SeriesPoint[]>(apiPath(`results/series?${scope}&days=${days}`));
  if (results.error) return <ErrorNote error={results.error.failure} />;
  if (!results.data) return <Loading what="results" />;
  const { total, before, from, to, lines } = results.data;
  const chosen = lines.find((line) => line.key === state.key);
  const shown = chosen ? chosen.sums : total;
  const shownBefore = chosen ? chosen.before : before;
  return (
    <div className="space-y-4">
      <PageHead
        title="Results"
        facts={from ? `${from} to ${to}, against the ${days} days before · goal ${goal}` : "No results yet"}
      >
        <RunMarket />
      </PageHead>
      {!from ? (
        <EmptyNote title="Results will stand here">
          Dispatch a structure, then run some days of the test market. It serves your campaigns to simulated shoppers
          and reports what they did.
        </EmptyNote>
      ) : (
        <>
          <div className="grid grid-cols-8 divide-x divide-line rounded-lg border border-line bg-surface">
            {HEADLINES.map((key) => (
              <Headline key={key} metric={key} now={shown} before={shownBefore} currency={currency} goal={goal} />
            ))}
          </div>
          <Surface
            title={chosen ? `${chosen.name}, day by day` : "Everything, day by day"}
            aside={
              chosen && (
                <Button look="quiet" onClick={() => void setState({ key: "" })}>
                  Show everything
                </Button>
              )
            }
          >
            {series.data ? <ResultsChart points={series.data} goal={goal} /> : <Loading what="days" />}
          </Surface>
          <div className="flex items-center gap-1" role="group" aria-label="Level">
            {LEVELS.map((choice) =>
              choice === "item" ? (
                <Link
                  key={choice}
                  className={buttonClasses("quiet")}
                  href={`/w/${slug}/catalogue?sort=-cost&days=${days}`}
                >
                  Items
                </Link>
              ) : (
                <button
                  key={choice}
                  type="button"
                  aria-pressed={state.level === choice}
                  onClick={() => void setState({ level: choice, key: "" })}
                  className={cx(
                    "h-8 rounded-md px-3 text-sm",
                    state.level === choice ? "bg-petrol-wash font-semibold" : "text-petrol hover:bg-raised",
                  )}
                >
                  {LEVEL_LABEL[choice]}
                </button>
              ),
            )}
          </div>
          <ResultsTable
            lines={lines}
            level={level}
            sort={state.sort}
            total={total}
            chosen={state.key}
            onChoose={(key) => void setState({ key: key === state.key ? "" : key })}
            onSort={(sort) => void setState({ sort })}
          />
        </>
      )}
    </div>
  );
}

/** A relative change in whole percent with its sign. */
function changeText(change: number): string {
  const percent = Math.round(change * 100);
  return percent === 0 ? "unchanged" : `${percent < 0 ? "−" : "+"}${Math.abs(percent)} %`;
}

function Headline({
  metric,
  now,
  before,
  currency,
  goal,
}: {
  metric: MetricKey;
  now: Sums;
  before: Sums;
  currency: string;
  goal: number;
}) {
  const { label, about, of } = METRICS[metric];
  const value = of(now);
  const earlier = of(before);
  const change = value !== null && earlier ? value / earlier - 1 : null;
  return (
    <div className="px-3 py-2" title={about}>
      <p className="text-xs text-soft">{label}</p>
      <p className="font-display text-lg leading-tight font-semibold num">{formatMetric(metric, value, currency)}</p>
      <p className="text-xs text-soft num">
        {metric === "roas" ? `of ${goal} · ` : ""}
        {change === null ? "nothing before" : changeText(change)}
      </p>
    </div>
  );
}

const RUN_CHOICES = [7, 14, 30];

function RunMarket() {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [days, setDays] = useState(7);
  const [busy, setBusy] = useState(false);
  const run = async () => {
    setBusy(true);
    try {
      await apiSend(apiPath("market/run"), { days });
      toast.info(`Running ${plural(days, "day")} of the test market. You can go on meanwhile.`);
      await refresh();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  return (
    <>
      <Select
        aria-label="Days to run"
        className="w-28!"
        value={days}
        onChange={(event) => setDays(Number(event.target.value))}
      >
        {RUN_CHOICES.map((choice) => (
          <option key={choice} value={choice}>
            {choice} days
          </option>
        ))}
      </Select>
      <Button look="ember" disabled={busy} onClick={() => void run()}>
        Run the test market
      </Button>
    </>
  );
}

const COLUMNS: MetricKey[] = ["cost", "revenue", "roas", "orders", "clicks", "cpc"];

function ResultsTable({
  lines,
  level,
  sort,
  total,
  chosen,
  onChoose,
  onSort,
}: {
  lines: ResultLine[];
  level: "campaign" | "adGroup" | "shelf";
  sort: string;
  total: Sums;
  chosen: string;
  onChoose: (key: string) => void;
  onSort: (sort: string) => void;
}) {
  const { currency } = useWorkspace();
  const apiPath = useApiPath();
  const [days] = useDays();
  const edit = useEdit();
  const account = useApi<AccountLine[]>(level === "campaign" ? apiPath(`account?days=${days}`) : null);
  const budgets = new Map(account.data?.map((line) => [line.key, line.dailyBudget]));
  const by = sort.replace(/^-/, "") as MetricKey;
  const sign = sort.startsWith("-") ? -1 : 1;
  const valueOf = (line: ResultLine) => METRICS[by]?.of(line.sums) ?? null;
  const sorted = [...lines].sort((a, b) => {
    const [x, y] = [valueOf(a), valueOf(b)];
    if (x === null || y === null) return Number(x === null) - Number(y === null);
    return sign * (x - y);
  });
  const scale = Math.max(0.01, ...lines.flatMap((line) => [line.spendShare ?? 0, line.salesShare ?? 0]));
  return (
    <div className="overflow-x-auto rounded-lg border border-line bg-surface">
      <table className="w-full text-sm" aria-label={LEVEL_LABEL[level]}>
        <thead>
          <tr className="border-b border-line text-left text-soft">
            <th className="px-3 py-2 font-normal">Name</th>
            {level === "campaign" && <th className="w-28 px-2 text-right font-normal">Budget a day</th>}
            {COLUMNS.map((key) => (
              <th
                key={key}
                className="w-20 px-2 text-right font-normal"
                aria-sort={by === key ? (sign < 0 ? "descending" : "ascending") : undefined}
              >
                <button
                  type="button"
                  title={METRICS[key].about}
                  className={cx("hover:text-ink", by === key && "font-semibold text-ink")}
                  onClick={() => onSort(sort === `-${key}` ? key : `-${key}`)}
                >
                  {METRICS[key].label}
                  {by === key && <span aria-hidden>{sign < 0 ? " ↓" : " ↑"}</span>}
                </button>
              </th>
            ))}
            <th className="w-48 px-2 text-center font-normal">spend share | sales share</th>
            <th className="w-20 px-3 text-right font-normal">Gap</th>
          </tr>
        </thead>
        <tbody>
          {sorted.map((line) => {
            const budget = budgets.get(line.key);
            return (
              <tr key={line.key} className={cx("border-b border-line/60", chosen === line.key && "bg-petrol-wash")}>
                <td className="px-3 py-1">
                  <button
                    type="button"
                    className="text-left hover:underline"
                    aria-pressed={chosen === line.key}
                    onClick={() => onChoose(line.key)}
                  >
                    {line.name}
                  </button>
                  {line.dryDays !== null && (
                    <span className="block text-xs text-ember num">
                      ran dry on {plural(line.dryDays, "day")}, about {Math.floor(line.dryHour ?? 0)}:00
                    </span>
                  )}
                </td>
                {level === "campaign" && (
                  <td className="px-2 text-right">
                    {budget != null && (
                      <MoneyCell
                        label={`Daily budget of ${line.name}`}
                        value={budget}
                        onSave={(dailyBudget) => edit({ action: "budget", keys: [line.key], dailyBudget })}
                      />
                    )}
                  </td>
                )}
                {COLUMNS.map((key) => (
                  <td key={key} className="px-2 text-right num">
                    {formatMetric(key, METRICS[key].of(line.sums), currency)}
                  </td>
                ))}
                <td className="px-2 text-center">
                  <BalanceBar spendShare={line.spendShare} salesShare={line.salesShare} scale={scale} />
                </td>
                <td className="px-3 text-right">
                  <Gap gap={line.gap} />
                </td>
              </tr>
            );
          })}
        </tbody>
        <tfoot>
          <tr className="border-t border-ink/40 font-semibold num">
            <td className="px-3 py-2">Everything</td>
            {level === "campaign" && <td />}
            {COLUMNS.map((key) => (
              <td key={key} className="px-2 text-right">
                {formatMetric(key, METRICS[key].of(total), currency)}
              </td>
            ))}
            <td colSpan={2} />
          </tr>
        </tfoot>
      </table>
    </div>
  );
}
