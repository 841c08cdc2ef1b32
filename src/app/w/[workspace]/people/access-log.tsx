"use client";

import { useState } from "react";
import { formatMoment, plural } from "@/core/kit/format";
import { TextInput } from "@/ui/field";
import { ErrorNote } from "@/ui/notes";
import { Surface } from "@/ui/page";
import { Pager } from "@/ui/pager";
import { useSettled } from "@/ui/use-settled";
import { Who } from "@/ui/who";
import { useApi } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";
import { accessLogPath, PAGE } from "./asks";

interface AccessLine {
  id: number;
  at: number;
  who: string;
  what: string;
  from: string;
}

/** Who signed in, was refused, or changed what others may do, newest first. */
export function AccessLog() {
  const apiPath = useApiPath();
  const { timeZone } = useWorkspace();
  const [q, setQ] = useState("");
  const [offset, setOffset] = useState(0);
  const settled = useSettled(q, 200);
  const found = useApi<{ total: number; lines: AccessLine[] }>(apiPath(accessLogPath(settled, offset)), {
    placeholderData: (before) => before,
  });
  const total = found.data?.total ?? 0;
  return (
    <Surface title="Sign-ins, refusals, changes of who may do what">
      {found.error && <ErrorNote error={found.error.failure} />}
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <TextInput
          type="search"
          aria-label="Search sign-ins and refusals"
          placeholder="Words, a person, an address"
          className="w-72!"
          value={q}
          onChange={(event) => {
            setOffset(0);
            setQ(event.target.value);
          }}
        />
        <span className="text-sm text-soft">{plural(total, "line")}; each is kept for 400 days</span>
        <Pager offset={offset} size={PAGE} total={total} onChange={setOffset} />
      </div>
      {found.data?.lines.length === 0 && (
        <p className="text-soft">{q === "" ? "Nothing yet." : "No line holds all of these words."}</p>
      )}
      <ul className="max-h-72 divide-y divide-line overflow-y-auto text-sm" tabIndex={0} aria-label="Access log">
        {found.data?.lines.map(({ id, at, who, what, from }) => (
          <li key={id} className="flex gap-3 py-1">
            <span className="w-36 shrink-0 text-soft num">{formatMoment(at, timeZone)}</span>
            <span className="w-64 shrink-0 truncate">
              <Who who={who} />
            </span>
            <span className="min-w-0 flex-1 truncate" title={what}>
              {what}
            </span>
            <span className="text-soft num">{from}</span>
          </li>
        ))}
      </ul>
    </Surface>
  );
}
