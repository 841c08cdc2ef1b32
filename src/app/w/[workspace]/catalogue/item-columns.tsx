import { formatMetric } from "@/core/kit/format";
import { METRICS, METRIC_KEYS, type MetricKey } from "@/core/kit/metrics";
import { formatMoney } from "@/core/kit/money";
import type { ItemLine } from "@/server/catalogue/items";
import type { TableColumn } from "@/ui/data-table";
import { HeatMark } from "@/ui/heat";
import { ItemTag } from "@/ui/item-tag";

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

/** Every column that can be chosen, with its label. */
export const COLUMN_CHOICES: [key: string, label: string][] = [
  ["id", "Item ID"],
  ["heat", "Heat"],
  ["brand", "Brand"],
  ["category", "Category"],
  ["availability", "Availability"],
  ["price", "Price"],
  ...METRIC_KEYS.map((key) => [key, METRICS[key].label] as [string, string]),
];

/** The columns of the item table: the item itself, then those chosen, in the order they were chosen. */
export function itemColumns(currency: string, chosen: string[]): TableColumn<ItemLine>[] {
  const all: TableColumn<ItemLine>[] = [
    {
      key: "id",
      label: "ID",
      width: 84,
      sort: "id",
      cell: (item) => <span className="font-mono text-xs">{item.id}</span>,
    },
    { key: "heat", label: "Heat", width: 86, sort: "heat", cell: (item) => <HeatMark heat={item.heat} /> },
    { key: "brand", label: "Brand", width: 110, sort: "brand", cell: (item) => item.brand },
    {
      key: "category",
      label: "Category",
      width: 190,
      sort: "category",
      cell: (item) => <span title={item.category}>{item.category}</span>,
    },
    { key: "availability", label: "Availability", width: 100, sort: "availability", cell: (item) => item.availability },
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
  return [
    {
      key: "title",
      label: "Item",
      width: "1fr",
      sort: "title",
      cell: (item) => <ItemTag id={item.id} title={item.title} image={item.image} />,
    },
    ...chosen.flatMap((key) => all.find((column) => column.key === key) ?? []),
  ];
}
