"use client";

import { useState, type ReactNode } from "react";
import { toast } from "sonner";
import { ACTS as EDITS } from "@/core/account/acts";
import { toTsv } from "@/core/dispatch/cells";
import type { Where } from "@/core/catalogue/where";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney, toUnits } from "@/core/kit/money";
import { SLOT_KEYS, SLOT_LABEL, type SlotKey } from "@/core/kit/slots";
import type { Level } from "@/core/results/levels";
import type { SliceLine } from "@/server/across/results/slice-lines";
import { Button } from "@/ui/button";
import { toastError, useApi } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";
import { AimAt } from "../aim-at";
import { ItemActionDialog, type ItemAction } from "../item-actions";
import { KeepShelfDialog } from "../keep-shelf-dialog";
import { NegativeDialog } from "../negative-dialog";
import { ActButtons, PickBar, type PickAct } from "../pick-bar";
import { formsFor, RecordDialog, type RecordAction } from "../record-dialogs";
import { useEdit } from "../use-edit";
import type { Within } from "./asks";

/** Levels whose lines are nothing that one could act on. */
const ONLY_SEEN: readonly Level[] = ["workspace", "day", "campaignKind", "adKind", "matchType", "placementKind"];

/** Whether lines of a level can be picked, since something can be done with them. */
export function isPickable(level: Level): boolean {
  return !ONLY_SEEN.includes(level);
}

interface ActsProps {
  level: Level;
  lines: SliceLine[];
  /** Keys of the lines; those that came without any, such as clicks without a term, are nothing to act on. */
  keys: string[];
  /** The campaign or ad group that is looked into, where there is one. */
  within: Within | null;
  /** The shelf set of level `shelf`. */
  set: string;
  onClear: () => void;
}

/** What can be done with the picked lines, with their sum. */
export function ResultActions(props: Omit<ActsProps, "keys">) {
  const { level, lines, onClear } = props;
  const { currency } = useWorkspace();
  const keys = [...new Set(lines.map(({ key }) => key))].filter((key) => key !== "");
  const sum = (of: (line: SliceLine) => number) => lines.reduce((total, line) => total + of(line), 0);
  const [cost, sales] = [sum(({ sums }) => sums.cost), sum(({ sums }) => sums.revenue)];
  const copy = async () => {
    const rows = lines.map(({ key, name, sums: { impressions, clicks, cost: spent, orders, revenue } }) => [
      ...[key, name, impressions, clicks, toUnits(spent), orders, toUnits(revenue)],
    ]);
    const headings = ["key", "name", "impressions", "clicks", "spend", "orders", "ad sales"];
    await navigator.clipboard.writeText(toTsv(headings, rows));
    toast.success(`${plural(rows.length, "line")} copied`);
  };
  const Acts = ACTS[level === "shelf" || level.startsWith("field:") ? "item" : level];
  return (
    <PickBar
      label={`${plural(new Set(lines.map(({ key }) => key)).size, "line")} picked`}
      sums={`spend ${formatMoney(cost, currency)} · ad sales ${formatMoney(sales, currency)} · ${formatCount(sum(({ sums }) => sums.orders))} orders`}
      onCopy={() => void copy().catch(toastError)}
      onClear={onClear}
    >
      {Acts && <Acts {...props} keys={keys} />}
    </PickBar>
  );
}

/** Conditions of one group of a filter. */
const MOST_IN_GROUP = 50;

/** The items that lines of a shelf set or field are about, as the item table finds them. */
function whereOf(level: Level, lines: SliceLine[], set: string): Where {
  const field = level === "shelf" ? `shelf:${set}` : level.slice("field:".length);
  const of = [...new Map(lines.map((line) => [line.key, line])).values()].map(({ key, name }) =>
    key === ""
      ? { field, op: "empty" as const, value: "" }
      : { field, op: "is" as const, value: level === "shelf" ? name : key },
  );
  const groups: Where[] = [];
  for (let at = 0; at < of.length; at += MOST_IN_GROUP)
    groups.push({ match: "any", of: of.slice(at, at + MOST_IN_GROUP) });
  return groups.length === 1 ? groups[0]! : { match: "any", of: groups };
}

function ItemActs({ level, lines, keys, within, set, onClear }: ActsProps) {
  const apiPath = useApiPath();
  const [doing, setDoing] = useState<ItemAction | "shelf" | null>(null);
  const where = level === "item" ? null : whereOf(level, lines, set);
  const query = where && `filter=${encodeURIComponent(JSON.stringify(where))}`;
  // How many items the lines are about; a line tells only those with results.
  const counted = useApi<{ total: number }>(query && apiPath(`items?${query}&limit=1`));
  const count = where ? (counted.data?.total ?? 0) : keys.length;
  const [only] = lines;
  return (
    <>
      {where && counted.data && <span className="num">{plural(count, "item")}</span>}
      <Button disabled={count === 0} onClick={() => setDoing("item-bid")}>
        Set bid
      </Button>
      <Button disabled={count === 0} onClick={() => setDoing("exclude")}>
        Exclude
      </Button>
      <Button disabled={count === 0} onClick={() => setDoing("solo")}>
        Own campaign
      </Button>
      <Button disabled={count === 0} onClick={() => setDoing("shelf")}>
        Put on a shelf
      </Button>
      {level === "item" && <Button onClick={() => setDoing("note")}>Add note</Button>}
      <ItemActionDialog
        action={doing === "shelf" ? null : doing}
        items={where ? [] : keys}
        query={query}
        count={count}
        suggestion={lines.length === 1 ? only!.name : ""}
        campaign={within?.level === "campaign" ? within.key : null}
        onClose={() => setDoing(null)}
        onDone={onClear}
      />
      {doing === "shelf" && (
        <KeepShelfDialog what={where ? { where } : { ids: keys }} count={count} onClose={() => setDoing(null)} />
      )}
    </>
  );
}

function TermActs({ keys, within, onClear }: ActsProps) {
  const [doing, setDoing] = useState<"negative" | "aim" | null>(null);
  const nothing = keys.length === 0 ? "These clicks came without a term" : undefined;
  return (
    <>
      <Button disabled={keys.length === 0} title={nothing} onClick={() => setDoing("negative")}>
        Make negative
      </Button>
      <Button disabled={keys.length === 0} title={nothing} onClick={() => setDoing("aim")}>
        Aim at them
      </Button>
      {doing === "negative" && (
        <NegativeDialog level="term" values={keys} within={within} onClose={() => setDoing(null)} onDone={onClear} />
      )}
      {doing === "aim" && <AimAt values={keys} onClose={() => setDoing(null)} onDone={onClear} />}
    </>
  );
}

function PlacementActs({ keys, within, onClear }: ActsProps) {
  const [isOpen, setOpen] = useState(false);
  const copy = async () => {
    await navigator.clipboard.writeText(keys.join("\n"));
    toast.success(`${plural(keys.length, "address", "addresses")} copied`);
  };
  return (
    <>
      <Button onClick={() => setOpen(true)}>Exclude</Button>
      <Button onClick={() => void copy().catch(toastError)}>Copy addresses</Button>
      {isOpen && (
        <NegativeDialog
          level="placement"
          values={keys}
          within={within}
          onClose={() => setOpen(false)}
          onDone={onClear}
        />
      )}
    </>
  );
}

/** Buttons that open dialogs on records, each with its word. */
function RecordActs({
  acts,
  keys,
  label,
  onClear,
  more = [],
  ...on
}: {
  acts: RecordAction[];
  keys: string[];
  label: string;
  slot?: SlotKey;
  hours?: number[];
  onClear: () => void;
  /** What is done at once, without a dialog. */
  more?: PickAct[];
}) {
  const [doing, setDoing] = useState<RecordAction | null>(null);
  const forms = acts.map((action) => ({ label: EDITS[action].button, onClick: () => setDoing(action) }));
  return (
    <>
      <ActButtons acts={[...more, ...forms]} />
      <RecordDialog action={doing} on={{ keys, label, ...on }} onClose={() => setDoing(null)} onDone={onClear} />
    </>
  );
}

/** Switches on again; pauses at once only what keeps no reason. */
function useStatusActs(keys: string[], withPause = false): PickAct[] {
  const edit = useEdit();
  const set = (label: string, status: "paused" | "on") => ({
    label,
    onClick: () => void edit({ action: "status", keys, status }),
  });
  return [...(withPause ? [set("Pause", "paused")] : []), set("Switch on", "on")];
}

function labelOf(lines: SliceLine[], noun: string): string {
  return lines.length === 1 ? lines[0]!.name : plural(lines.length, noun);
}

function TargetActs({ keys, lines, onClear }: ActsProps) {
  // A product group is a line of this level too; its items are lifted out in the workbench.
  const level = keys.some((key) => key.startsWith("p:")) ? "productGroup" : "target";
  const acts = formsFor(level).filter((action) => action !== "status");
  const more = useStatusActs(keys, true);
  return <RecordActs acts={acts} keys={keys} label={labelOf(lines, "target")} onClear={onClear} more={more} />;
}

/** Several at once get no name, and a name alone is changed in the workbench. */
const MANY = (action: RecordAction) => action !== "rename" && action !== "folder";

function CampaignActs({ keys, lines, onClear }: ActsProps) {
  const more = useStatusActs(keys);
  const acts = formsFor("campaign").filter(MANY);
  return <RecordActs acts={acts} keys={keys} label={labelOf(lines, "campaign")} onClear={onClear} more={more} />;
}

function AdGroupActs({ keys, lines, onClear }: ActsProps) {
  const more = useStatusActs(keys);
  const acts = formsFor("adGroup").filter(MANY);
  return <RecordActs acts={acts} keys={keys} label={labelOf(lines, "ad group")} onClear={onClear} more={more} />;
}

function FactorActs({ level, keys, within, onClear }: ActsProps) {
  const campaigns = within?.level === "campaign" ? [within.key] : [];
  if (level === "hour") {
    const hours = keys.map(Number).sort((a, b) => a - b);
    const label = hours.map((hour) => `${String(hour).padStart(2, "0")}:00`).join(", ");
    return <RecordActs acts={["hour-factor"]} keys={campaigns} hours={hours} label={label} onClear={onClear} />;
  }
  const slot = keys.find((key): key is SlotKey => (SLOT_KEYS as readonly string[]).includes(key));
  if (!slot || keys.length > 1) return <span className="text-soft">Pick one slot for a factor.</span>;
  return <RecordActs acts={["slot-factor"]} keys={campaigns} slot={slot} label={SLOT_LABEL[slot]} onClear={onClear} />;
}

/** What fits each level. */
const ACTS: Record<string, ((props: ActsProps) => ReactNode) | undefined> = {
  item: ItemActs,
  term: TermActs,
  placement: PlacementActs,
  target: TargetActs,
  campaign: CampaignActs,
  adGroup: AdGroupActs,
  slot: FactorActs,
  hour: FactorActs,
};
