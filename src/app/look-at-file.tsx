"use client";

import { useRouter } from "next/navigation";
import Papa from "papaparse";
import { useState } from "react";
import type { Failure } from "@/core/kit/outcome";
import { guessKind, proposeReportMapping } from "@/core/results/reports/report-mapping";
import type { ReportProposal } from "@/server/results/reports/reports";
import { Button } from "@/ui/button";
import { Field, Select, TextInput } from "@/ui/field";
import { ErrorNote } from "@/ui/notes";
import { ApiError, apiGet, apiSend, apiUpload } from "./_lib/api";
import { freeSlug } from "./slug-of";

/** So much of a file's beginning is searched for the currency it names. */
const LOOKED_AT = 64 * 1024;
const LOOKED_ROWS = 20;

/** The currency that the amounts in a text file's first rows are in, as the reading of reports finds it; null where they name none. */
async function currencyOf(file: File): Promise<string | null> {
  if (!/\.(csv|tsv|txt)$/i.test(file.name)) return null;
  const { data } = Papa.parse<string[]>(await file.slice(0, LOOKED_AT).text(), { preview: LOOKED_ROWS });
  const [headings = [], ...rows] = data;
  return proposeReportMapping(guessKind(headings), headings, rows).currency;
}

/**
 * A stocktake of a report that somebody has, without feed or account: it gets a workspace of its own, and the stocktake page
 * asks what its columns mean.
 */
export function LookAtFile() {
  const router = useRouter();
  const [file, setFile] = useState<File | null>(null);
  const [currency, setCurrency] = useState("EUR");
  const [goal, setGoal] = useState("3");
  const [made, setMade] = useState<string | null>(null);
  const [busy, setBusy] = useState("");
  const [error, setError] = useState<Failure | null>(null);
  const goalNumber = Number(goal.replace(",", "."));
  const isGoal = goalNumber > 0 && goalNumber <= 1000;

  const choose = async (chosen: File | undefined) => {
    setError(null);
    setFile(chosen ?? null);
    const named = chosen ? await currencyOf(chosen) : null;
    if (named) setCurrency(named);
  };
  const workspaceFor = async (name: string) => {
    if (made) return made;
    const known = await apiGet<{ slug: string }[]>("workspaces");
    const slug = freeSlug(name, new Set(known.map((one) => one.slug)));
    const timeZone = Intl.DateTimeFormat().resolvedOptions().timeZone;
    await apiSend("workspaces", { slug, name, currency, timeZone, goal: goalNumber });
    setMade(slug);
    return slug;
  };
  const look = async () => {
    if (!file) return;
    setError(null);
    setBusy("Uploading");
    try {
      const name = `Look at ${file.name.replace(/(\.[a-z0-9]{1,5})+$/i, "")}`.slice(0, 80);
      const slug = await workspaceFor(name);
      const { upload } = await apiUpload<ReportProposal>(`${slug}/report-uploads`, file);
      router.push(`/w/${slug}/stocktake?${new URLSearchParams({ upload, file: file.name })}`);
    } catch (failure) {
      setBusy("");
      if (!(failure instanceof ApiError)) throw failure;
      setError(failure.failure);
    }
  };

  return (
    <form
      className="h-fit space-y-3 rounded-lg border border-line bg-surface p-5"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        void choose(event.dataTransfer.files[0]);
      }}
      onSubmit={(event) => {
        event.preventDefault();
        void look();
      }}
    >
      <h2 className="font-display text-lg font-semibold">Look at one file</h2>
      <p className="text-sm text-soft">
        Only have a report of some account? A stocktake says what is wrong with it and what that costs a month. No feed
        and no account needed.
      </p>
      <label className="block text-sm">
        <span className="mb-1 block font-medium">Report file</span>
        <input
          type="file"
          accept=".csv,.tsv,.txt,.xlsx,.gz"
          disabled={busy !== ""}
          className="block w-full text-sm file:mr-3 file:cursor-pointer file:rounded-md file:border file:border-line file:bg-surface file:px-3 file:py-1.5 file:font-semibold file:text-ink hover:file:bg-raised"
          onChange={(event) => void choose(event.target.files?.[0])}
        />
      </label>
      {file && (
        <div className="grid grid-cols-2 gap-3">
          <Field label="Currency" hint={made ? "As the workspace was made." : "As in the file's amounts."}>
            {(props) => (
              <Select
                {...props}
                value={currency}
                disabled={made !== null}
                onChange={(event) => setCurrency(event.target.value)}
              >
                {Intl.supportedValuesOf("currency").map((code) => (
                  <option key={code}>{code}</option>
                ))}
              </Select>
            )}
          </Field>
          <Field
            label="Goal return"
            hint="Sales per unit of ad cost."
            error={isGoal ? undefined : "A number above 0, such as 3.5."}
          >
            {(props) => (
              <TextInput
                {...props}
                inputMode="decimal"
                value={goal}
                disabled={made !== null}
                onChange={(event) => setGoal(event.target.value)}
              />
            )}
          </Field>
        </div>
      )}
      {error && <ErrorNote error={error} />}
      <Button type="submit" disabled={!file || busy !== "" || !isGoal} className="w-full justify-center">
        {busy ? `${busy} …` : "Look at this file"}
      </Button>
    </form>
  );
}
