import {
  createLoader,
  parseAsBoolean,
  parseAsJson,
  parseAsString,
  parseAsStringLiteral,
  type inferParserType,
} from "nuqs/server";
import { z } from "zod";
import { METRIC_KEYS, type MetricKey } from "@/core/kit/metrics";
import { isLevel, type Level } from "@/core/results/levels";
import { STARTING_SET } from "@/core/shelves/ready-made";
import type { Asks } from "../../../_lib/first-answers";
import { daysOf } from "../../../_lib/view-defaults";

export const COMPARES = ["before", "year", "range", "none"] as const;
export const CHARTS = ["time", "scatter"] as const;
/** Whether people speak of return (sales per unit of cost) or of cost share (cost per unit of sales). */
export const LANGUAGES = ["return", "share"] as const;
export type Language = (typeof LANGUAGES)[number];

export interface Within {
  level: Level;
  key: string;
  /** What it is called, so that it can be shown before its line is read. */
  name: string;
}

/** Only lines whose metric is at least or at most so much, as the API has it. */
export interface Where {
  metric: MetricKey;
  op: "least" | "most";
  value: number;
}

const whereSchema = z.array(
  z.object({ metric: z.enum(METRIC_KEYS), op: z.enum(["least", "most"]), value: z.number() }),
);

const withinSchema = z.array(
  z.object({ level: z.string().refine(isLevel) as z.ZodType<Level>, key: z.string(), name: z.string() }),
);

const COLUMNS: Record<Language, MetricKey[]> = {
  return: ["cost", "revenue", "roas", "orders"],
  share: ["cost", "revenue", "acos", "orders"],
};

/** Whether a level is read from the report of placements. */
const isOfPlacements = (level: string) => level === "placement" || level === "placementKind";

/** What is looked at first where a level asks for other figures: placements are often reported with impressions only. */
function columnsOf(level: string, language: Language): MetricKey[] {
  const ratio = language === "return" ? "roas" : "acos";
  if (isOfPlacements(level)) return ["impressions", "clicks", "cost", "revenue"];
  if (level === "term" || level === "target") return ["clicks", "cpc", "cost", "orders", ratio];
  return COLUMNS[language];
}

/** Days and hours stand in their own order, the rest by what takes most. */
function sortOf(level: string): string {
  if (level === "hour") return "name";
  return level === "day" ? "-name" : isOfPlacements(level) ? "-impressions" : "-cost";
}

/** What the address of the results holds. */
export const resultsState = {
  level: parseAsString.withDefault("campaign"),
  split: parseAsString.withDefault(""),
  compare: parseAsStringLiteral(COMPARES).withDefault("before"),
  from: parseAsString.withDefault(""),
  to: parseAsString.withDefault(""),
  cfrom: parseAsString.withDefault(""),
  cto: parseAsString.withDefault(""),
  within: parseAsJson((value) => withinSchema.parse(value)).withDefault([]),
  where: parseAsJson((value) => whereSchema.parse(value)).withDefault([]),
  /** Empty is the level's own order. */
  sort: parseAsString.withDefault(""),
  columns: parseAsString.withDefault(""),
  q: parseAsString.withDefault(""),
  complete: parseAsBoolean.withDefault(false),
  chart: parseAsStringLiteral(CHARTS).withDefault("time"),
  lang: parseAsStringLiteral(LANGUAGES).withDefault("return"),
  set: parseAsString.withDefault(STARTING_SET),
};

const load = createLoader(resultsState);

/** Lines read at once; more are searched for, sorted to the top, or exported. */
const MOST_LINES = 500;

/** What a view of results asks for, and the columns it shows. @param days of the window, where it says no days of its own */
export function resultsQuery(state: inferParserType<typeof resultsState>, days: number) {
  const defaults = columnsOf(state.level, state.lang);
  const sort = state.sort || sortOf(state.level);
  const chosen = state.columns
    .split(",")
    .filter((name): name is MetricKey => (METRIC_KEYS as readonly string[]).includes(name));
  const columns = chosen.length > 0 ? chosen : defaults;
  const window = new URLSearchParams({ days: String(days) });
  if (state.from) window.set("from", state.from);
  if (state.to) window.set("to", state.to);
  const common = new URLSearchParams(window);
  if (state.complete) common.set("complete", "true");
  common.set("set", state.set);
  common.set("within", JSON.stringify(state.within.map(({ level, key }) => ({ level, key }))));
  const query = new URLSearchParams(common);
  query.set("level", isLevel(state.level) ? state.level : "campaign");
  if (state.split && isLevel(state.split)) query.set("split", state.split);
  const isReady = state.compare !== "range" || (state.cfrom !== "" && state.cto !== "");
  query.set("compare", isReady ? state.compare : "none");
  if (state.compare === "range" && isReady) {
    query.set("compareFrom", state.cfrom);
    query.set("compareTo", state.cto);
  }
  query.set("sort", sort);
  if (state.where.length > 0) query.set("where", JSON.stringify(state.where));
  if (state.q) query.set("q", state.q);
  return {
    ...{ columns, defaults, query, common, sort },
    paths: {
      lines: `results?${query}&limit=${MOST_LINES}`,
      days: `results?${common}&level=day&compare=none&sort=name&limit=1000`,
    },
  };
}

/** What the results ask first. */
export const asks: Asks = (search) => {
  const { paths } = resultsQuery(load(search), daysOf(search));
  return [paths.lines, paths.days, `account?days=${daysOf(search)}`, "fields", "views?screen=results"];
};
