"use client";

import { useState } from "react";
import { toast } from "sonner";
import { ACTS } from "@/core/account/acts";
import { toTsv } from "@/core/dispatch/cells";
import { formatCount, plural } from "@/core/kit/format";
import { formatMoney, toUnits } from "@/core/kit/money";
import type { AccountLine } from "@/server/planogram/workbench";
import { toastError } from "../../../_lib/api";
import { useWorkspace } from "../../../_lib/workspace";
import { ActButtons, PickBar } from "../pick-bar";
import { formsFor, RecordDialog, type RecordAction } from "../record-dialogs";
import { useEdit } from "../use-edit";
import { GroupItems } from "./group-items";

const LEVEL_WORDS = { campaign: "campaign", adGroup: "ad group", productGroup: "product group" } as const;

/** What can be done with picked lines of the workbench: what fits all of them. */
export function WorkbenchActs({ lines, onClear }: { lines: AccountLine[]; onClear: () => void }) {
  const { currency } = useWorkspace();
  const edit = useEdit();
  const [doing, setDoing] = useState<RecordAction | "items" | null>(null);
  const levels = [...new Set(lines.map(({ level }) => level))];
  const [level] = levels.length === 1 ? levels : [];
  const noun = level ? LEVEL_WORDS[level] : "line";
  const keys = lines.map(({ key }) => key);
  const sum = (of: (line: AccountLine) => number) => lines.reduce((total, line) => total + of(line), 0);
  const copy = () => {
    const headings = ["level", "name", "status", "items", "budget a day", "bid", "spend", "ad sales", "orders"];
    const rows = lines.map(({ level: of, name, status, items, dailyBudget, bid, sums }) => [
      ...[LEVEL_WORDS[of], name, status, items, dailyBudget === null ? null : toUnits(dailyBudget)],
      ...[bid === null ? null : toUnits(bid), toUnits(sums.cost), toUnits(sums.revenue), sums.orders],
    ]);
    navigator.clipboard
      .writeText(toTsv(headings, rows))
      .then(() => toast.success(`${plural(rows.length, "line")} copied`))
      .catch(toastError);
  };
  // A name is given to one at a time; a product group is closed at once, since it keeps no reason.
  const forms = level
    ? formsFor(level).filter((action) => action !== "rename" && !(level === "productGroup" && action === "status"))
    : [];
  const open = (action: RecordAction) => ({ label: ACTS[action].button, onClick: () => setDoing(action) });
  const set = (label: string, status: "closed" | "on") => ({
    label,
    onClick: () => void edit({ action: "status", keys, status }),
  });
  const acts = [
    ...(level === "productGroup" ? [set("Close", "closed")] : []),
    set("Switch on", "on"),
    ...forms.map(open),
    ...(lines.length === 1 && level !== "productGroup" ? [open("rename")] : []),
    ...(lines.length === 1 ? [{ label: "Its items", onClick: () => setDoing("items") }] : []),
  ];
  return (
    <>
      <PickBar
        label={`${plural(lines.length, noun)} picked`}
        sums={
          level
            ? `spend ${formatMoney(
                sum(({ sums }) => sums.cost),
                currency,
              )} · ad sales ${formatMoney(
                sum(({ sums }) => sums.revenue),
                currency,
              )} · ${formatCount(sum(({ sums }) => sums.orders))} orders`
            : undefined
        }
        onCopy={copy}
        onClear={onClear}
      >
        <ActButtons acts={acts} />
      </PickBar>
      <RecordDialog
        action={doing === "items" ? null : doing}
        on={{ keys, label: lines.length === 1 ? lines[0]!.name : plural(lines.length, noun) }}
        onClose={() => setDoing(null)}
        onDone={onClear}
      />
      {doing === "items" && <GroupItems line={lines[0]!} onClose={() => setDoing(null)} />}
    </>
  );
}
