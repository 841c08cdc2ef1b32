import { formatCount, formatMetric, formatShare } from "@/core/kit/format";
import { METRICS, METRIC_KEYS, type MetricKey } from "@/core/kit/metrics";
import { formatMoney } from "@/core/kit/money";
import type { ItemLine } from "@/server/across/catalogue/items";
import type { TableColumn } from "@/ui/data-table";
import { HeatMark } from "@/ui/heat";
import { ItemTag } from "@/ui/item-tag";
import type { FieldChoice } from "./where-builder";

/** Columns shown at first; the others can be chosen. */
export const DEFAULT_COLUMNS = ["id", "heat", "price", "cost", "revenue", "roas", "clicks", "orders", "storeRevenue"];

const WIDTH: Partial<Record<MetricKey, number>> = {
  impressions: 96,
  orders: 80,
  storeOrders: 96,
  adDependence: 110,
  rpc: 110,
  storeRevenue: 96,
  revenue: 92,
  cost: 86,
};

/** Columns that every line of the table has anyway; all others are asked for by name. */
const IN_LINE = new Set<string>(["id", "heat", "price", "title", ...METRIC_KEYS]);

/** The names of the columns that must be asked for. */
export function askedColumns(chosen: string[]): string[] {
  return chosen.filter((name) => !IN_LINE.has(name));
}

/** A value of an asked column as text. */
export function valueText(kind: FieldChoice["kind"], value: string | number | null, currency: string): string {
  if (value === null || value === "") return "–";
  if (typeof value === "string") return value;
  if (kind === "money") return formatMoney(value, currency);
  if (kind === "share") return formatShare(value);
  return Number.isInteger(value) ? formatCount(value) : String(Number(value.toFixed(2)));
}

/** The columns of the item table: the item itself, then those chosen, in their order. */
export function itemColumns(currency: string, chosen: string[], fields: FieldChoice[]): TableColumn<ItemLine>[] {
  const own: TableColumn<ItemLine>[] = [
    {
      key: "id",
      label: "ID",
      width: 84,
      sort: "id",
      cell: (item) => <span className="font-mono text-xs">{item.id}</span>,
    },
    {
      key: "heat",
      label: "Heat",
      width: 86,
      sort: "heat",
      cell: (item) => <HeatMark heat={item.heat} orders={item.sums.orders} />,
    },
    {
      key: "price",
      label: "Price",
      width: 86,
      align: "right",
      sort: "price",
      cell: (item) => formatMoney(item.price, currency),
    },
    ...METRIC_KEYS.map((key): TableColumn<ItemLine> => {
      const metric = METRICS[key];
      return {
        key,
        label: metric.label,
        about: metric.about,
        width: WIDTH[key] ?? 70,
        align: "right",
        sort: key,
        cell: (item) => formatMetric(key, metric.of(item.sums), currency),
      };
    }),
  ];
  const asked = (name: string): TableColumn<ItemLine> => {
    const field = fields.find((one) => one.name === name);
    const kind = field?.kind ?? "text";
    return {
      key: name,
      label: field?.label ?? name,
      about: field?.label ?? name,
      width: kind === "text" ? (name === "category" ? 190 : 130) : 100,
      align: kind === "text" ? "left" : "right",
      sort: name,
      cell: (item) => {
        const text = valueText(kind, item.values[name] ?? null, currency);
        return <span title={text}>{text}</span>;
      },
    };
  };
  return [
    {
      key: "title",
      label: "Item",
      width: "1fr",
      sort: "title",
      cell: (item) => <ItemTag id={item.id} title={item.title} image={item.image} />,
    },
    ...chosen.map((key) => own.find((column) => column.key === key) ?? asked(key)),
  ];
}

/** The shown columns of some lines as cells, as they are copied to a spreadsheet: plain numbers, no signs. */
export function lineCells(item: ItemLine, chosen: string[], fields: FieldChoice[]): string[] {
  return chosen.map((name) => {
    const metric = METRICS[name as MetricKey];
    if (name === "id") return item.id;
    if (name === "heat") return item.heat;
    const value = metric ? metric.of(item.sums) : name === "price" ? item.price : (item.values[name] ?? null);
    if (value === null) return "";
    const kind = metric?.kind ?? fields.find((field) => field.name === name)?.kind;
    return typeof value === "number" && kind === "money" ? String(value / 1000) : String(value);
  });
}
