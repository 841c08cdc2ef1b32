"use client";

import Link from "next/link";
import { useState } from "react";
import { formatCount } from "@/core/kit/format";
import { formatChange, formatMoney, millsToField, parseMoney } from "@/core/kit/money";
import { HOUSE_RULES } from "@/core/moves/house-rules";
import type { MoveLine, WhichMoves } from "@/server/moves/moves";
import { Button } from "@/ui/button";
import { SidePanel } from "@/ui/dialog";
import { Field, TextInput } from "@/ui/field";
import { useWorkspace } from "../../../_lib/workspace";
import { MovesLook } from "./look";
import { useAccept, useDecide } from "./use-moves";

/** One move opened: what it stands on, what is expected of it, what it changes, and an amount to adjust. */
export function MovePanel({
  move,
  onClose,
  onDecide,
}: {
  move: MoveLine;
  onClose: () => void;
  onDecide: (how: "dismissed" | "snoozed") => void;
}) {
  const { currency, slug } = useWorkspace();
  const accept = useAccept();
  const decide = useDecide();
  const [text, setText] = useState(move.amount ? millsToField(move.amount.to) : "");
  const [busy, setBusy] = useState(false);
  const parsed = move.amount ? parseMoney(text) : null;
  const isFit = parsed === null || (parsed.ok && parsed.mills > 0);
  const amount = parsed?.ok && parsed.mills !== move.amount?.to ? { amount: parsed.mills } : {};
  const which: WhichMoves = { moves: [{ key: move.key, seal: move.seal, ...amount }] };
  const { expected, stands, limitedBy, decided } = move;
  const signed = (mills: number) => formatChange(mills, currency);
  const rows: [string, string][] = [
    ["Clicks", `${expected.clicks < 0 ? "−" : "+"}${Math.abs(expected.clicks).toFixed(1)}`],
    ["Spend", signed(expected.cost)],
    ["Sales", signed(expected.revenue)],
    [
      "Contribution",
      expected.contribution
        ? `${signed(expected.contribution.mean)}, ${signed(expected.contribution.low)} to ${signed(expected.contribution.high)}`
        : "–, costs are not known",
    ],
  ];
  return (
    <SidePanel
      open
      onClose={onClose}
      title={
        <>
          <p className="font-display text-lg leading-tight font-semibold">{move.about}</p>
          <p className="text-sm text-soft">{move.campaignName ?? "All campaigns"}</p>
        </>
      }
    >
      <div className="space-y-4 text-sm">
        <section>
          <p className="text-base font-semibold num">{move.what}</p>
          <p className="num">{move.why}.</p>
          <p className="text-soft num">
            Stands on {formatCount(stands.clicks)} clicks and {formatCount(stands.orders)} orders.
            {limitedBy === "channel" && " The channel takes no other amount."}
          </p>
          {limitedBy && limitedBy !== "channel" && (
            <p className="text-soft">
              Held back by the house rule{" "}
              <Link className="underline" href={`/w/${slug}/moves/rules`}>
                {HOUSE_RULES[limitedBy].label.toLowerCase()}
              </Link>
              .
            </p>
          )}
          {decided && (
            <p className="text-ember-strong">
              {decided.how === "dismissed" ? "Dismissed" : `Put off till ${decided.until}`} by {decided.who}
              {decided.reason ? `: ${decided.reason}` : ""}.
            </p>
          )}
        </section>
        <section>
          <h2 className="mb-1 font-semibold">Expected to change, a day</h2>
          <table className="w-full">
            <tbody>
              {rows.map(([name, value]) => (
                <tr key={name} className="border-b border-line/60 last:border-0">
                  <th scope="row" className="py-1 text-left font-normal text-soft">
                    {name}
                  </th>
                  <td className="py-1 text-right num">{value}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mt-1 text-soft num">
            {formatMoney(move.stake, currency)} a month at stake. The interval holds the truth four times in five.
          </p>
        </section>
        {move.amount && (
          <Field label={`Amount in ${currency}`} error={isFit ? undefined : "An amount such as 0.45."}>
            {(props) => <TextInput {...props} value={text} onChange={(event) => setText(event.target.value)} />}
          </Field>
        )}
        <section>
          <h2 className="mb-1 font-semibold">What accepting it changes</h2>
          {isFit && <MovesLook which={which} />}
        </section>
        <div className="flex flex-wrap gap-2">
          <Button
            look="ember"
            disabled={!isFit || busy}
            onClick={() => {
              setBusy(true);
              void accept(which).then((done) => {
                setBusy(false);
                if (done) onClose();
              });
            }}
          >
            Put into the basket
          </Button>
          {decided ? (
            <Button onClick={() => void decide(which, "open").then((done) => done && onClose())}>Open again</Button>
          ) : (
            <>
              <Button onClick={() => onDecide("dismissed")}>Dismiss …</Button>
              <Button onClick={() => onDecide("snoozed")}>Put off …</Button>
            </>
          )}
        </div>
      </div>
    </SidePanel>
  );
}
