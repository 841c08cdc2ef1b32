"use client";

import { Search } from "lucide-react";
import type { ReactNode } from "react";
import { parseAsInteger, parseAsString, useQueryState } from "nuqs";
import { formatMoment, plural } from "@/core/kit/format";
import { cx } from "@/ui/cx";
import { TextInput } from "@/ui/field";
import { EmptyNote, ErrorNote, Loading } from "@/ui/notes";
import { PageHead } from "@/ui/page";
import { Pager } from "@/ui/pager";
import { useSettled } from "@/ui/use-settled";
import { Who } from "@/ui/who";
import { useApi } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useWorkspace } from "../../../_lib/workspace";
import { logPath, PAGE } from "./asks";

interface Line {
  id: number;
  at: number;
  who: string;
  what: string;
  why: string;
  place: string;
}

const COLUMNS: { label: string; width: string; look: string; of: (line: Line, timeZone: string) => ReactNode }[] = [
  { label: "When", width: "w-40", look: "num", of: ({ at }, timeZone) => formatMoment(at, timeZone) },
  { label: "Who", width: "w-44", look: "", of: ({ who }) => <Who who={who} /> },
  { label: "What", width: "", look: "", of: ({ what }) => what },
  { label: "Why", width: "w-60", look: "text-soft", of: ({ why }) => why || "–" },
  { label: "Where", width: "w-28", look: "text-soft", of: ({ place }) => place },
];

/** Who changed what, when and why, newest first. */
export default function LogPage() {
  const apiPath = useApiPath();
  const { timeZone } = useWorkspace();
  const [q, setQ] = useQueryState("q", parseAsString.withDefault(""));
  const [offset, setOffset] = useQueryState("from", parseAsInteger.withDefault(0));
  const settled = useSettled(q, 200);
  const found = useApi<{ total: number; lines: Line[] }>(apiPath(logPath(settled, offset)), {
    placeholderData: (before) => before,
  });
  useOwnWindow("All days");
  const total = found.data?.total ?? 0;
  return (
    <div className="space-y-3">
      <PageHead title="Change log" facts={found.data && `${plural(total, "line")}${q ? " found" : ""}`}>
        <label className="relative">
          <Search aria-hidden className="absolute top-2 left-2.5 size-4 text-soft" />
          <TextInput
            type="search"
            aria-label="Search the log"
            placeholder="Words, a person, a place"
            className="w-72! pl-8!"
            value={q}
            onChange={(event) => {
              void setOffset(null);
              void setQ(event.target.value || null);
            }}
          />
        </label>
      </PageHead>
      {found.error && <ErrorNote error={found.error.failure} />}
      {found.isPending && <Loading what="the log" />}
      {found.data?.lines.length === 0 && (
        <EmptyNote title={q ? "No line holds all of these words" : "Nothing was changed yet"}>
          {q
            ? "Take a word away."
            : "Every change of fields, shelves, basket and settings stands here, with who made it."}
        </EmptyNote>
      )}
      {found.data && found.data.lines.length > 0 && (
        <div className="overflow-hidden rounded-lg border border-line bg-surface">
          <table className="w-full table-fixed text-sm">
            <thead className="border-b border-line text-left text-soft">
              <tr>
                {COLUMNS.map(({ label, width }) => (
                  <th key={label} scope="col" className={cx("px-3 py-2 font-normal", width)}>
                    {label}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody className="divide-y divide-line">
              {found.data.lines.map((line) => (
                <tr key={line.id}>
                  {COLUMNS.map(({ label, look, of }) => (
                    <td key={label} className={cx("px-3 py-1.5 align-top break-words", look)}>
                      {of(line, timeZone)}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      <Pager offset={offset} size={PAGE} total={total} onChange={(to) => void setOffset(to || null)} />
    </div>
  );
}
