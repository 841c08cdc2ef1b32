"use client";

import Link from "next/link";
import { useState } from "react";
import { toast } from "sonner";
import { formatMoment, plural } from "@/core/kit/format";
import { HOUSE_RULES, ruleSchema } from "@/core/moves/house-rules";
import type { ExperimentLine } from "@/server/experiments/experiments";
import type { RuleInForce } from "@/server/moves/house-rules";
import type { MovesView } from "@/server/moves/moves";
import { Button } from "@/ui/button";
import { TextInput } from "@/ui/field";

import { PageHead, PageWaiting, Surface } from "@/ui/page";
import { Who } from "@/ui/who";
import { apiSend, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { MovesTabs } from "../tabs";

const UNIT = {
  percent: "%",
  clicks: "clicks",
  times: "times",
  keywords: "keywords",
  orders: "orders",
  items: "items",
  days: "days",
  cents: "cents",
};

/** Every number that proposals go by, with its reason, and who set it. */
export default function RulesPage() {
  const apiPath = useApiPath();
  useOwnWindow("Now");
  const rules = useApi<RuleInForce[]>(apiPath("house-rules"));
  // What rules do to moves comes after the rules themselves; without results there are none, which is no fault here.
  const moves = useApi<MovesView>(apiPath("moves?limit=1"));
  if (rules.error || !rules.data)
    return (
      <PageWaiting title="Moves" what="the house rules" error={rules.error}>
        <MovesTabs />
      </PageWaiting>
    );
  const set = rules.data.filter((rule) => rule.set !== null).length;
  return (
    <div className="space-y-3">
      <PageHead title="Moves" facts={`${rules.data.length} numbers that proposals go by, ${set} of them set by hand`} />
      <MovesTabs />
      <Surface>
        <ul className="divide-y divide-line">
          {rules.data.map((rule) => (
            <Rule key={`${rule.key}/${rule.value}`} rule={rule} held={moves.data?.heldBy[rule.key] ?? 0} />
          ))}
        </ul>
      </Surface>
      <Learned />
    </div>
  );
}

/** What experiments taught, in words, each with where it comes from. */
function Learned() {
  const { slug, timeZone } = useWorkspace();
  const learned = useApi<ExperimentLine[]>(useApiPath()("experiments/learned"));
  if (!learned.data || learned.data.length === 0) return null;
  return (
    <Surface title="What experiments taught">
      <ul className="space-y-2">
        {learned.data.map(({ id, name, learned: rule, verdict }) => (
          <li key={id}>
            <span className="font-semibold">{rule!.text}</span>
            <span className="block text-sm text-soft num">
              From{" "}
              <Link className="text-petrol underline" href={`/w/${slug}/experiments`}>
                {name}
              </Link>
              , {formatMoment(rule!.at, timeZone)}, <Who who={rule!.by} />. {verdict}
            </span>
          </li>
        ))}
      </ul>
    </Surface>
  );
}

function Rule({ rule: { key, value, set }, held }: { rule: RuleInForce; held: number }) {
  const { timeZone } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const { label, reason, preset, unit, least, most } = HOUSE_RULES[key];
  const [text, setText] = useState(String(value));
  const given = Number(text.replace(",", "."));
  const isFit = text.trim() !== "" && ruleSchema(key).safeParse(given).success;
  const keep = async (next: number | null) => {
    try {
      await apiSend(apiPath(`house-rules/${key}`), { value: next }, "PUT");
      toast.success(`${label}: ${next ?? preset} ${UNIT[unit]}`);
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <li className="grid grid-cols-[minmax(0,1fr)_120px_210px] items-center gap-4 py-3">
      <div>
        <p className="font-semibold">{label}</p>
        <p className="text-sm text-soft">
          {reason}
          {held > 0 && <b className="num"> It holds back {plural(held, "move")} now.</b>}
        </p>
      </div>
      <form
        className="flex items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (isFit && given !== value) void keep(given);
        }}
      >
        <TextInput
          aria-label={label}
          aria-invalid={!isFit}
          className="w-16! text-right num"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <span className="text-sm text-soft">{UNIT[unit]}</span>
      </form>
      <div className="flex items-center justify-end gap-2 text-sm text-soft num">
        {!isFit ? (
          <span className="text-ember-strong">{`From ${least} to ${most}.`}</span>
        ) : given !== value ? (
          <Button look="ember" onClick={() => void keep(given)}>
            Set it
          </Button>
        ) : set ? (
          <>
            <span>
              <Who who={set.who} />, {formatMoment(set.at, timeZone)}
            </span>
            <Button look="quiet" onClick={() => void keep(null)}>{`Back to ${preset}`}</Button>
          </>
        ) : (
          <span>as it comes</span>
        )}
      </div>
    </li>
  );
}
