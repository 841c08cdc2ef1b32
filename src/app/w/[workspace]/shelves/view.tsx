"use client";

import { Plus } from "lucide-react";
import Link from "next/link";
import { useQueryStates } from "nuqs";
import { useCallback, useState } from "react";
import { toast } from "sonner";
import { dayLabel, parseDay } from "@/core/kit/days";
import { formatCount, formatMoment, plural } from "@/core/kit/format";
import type { ShelfSet } from "@/core/shelves/shelf-set";
import type { ShelfSetPage } from "@/server/shelves/blocks";
import { Button, buttonClasses } from "@/ui/button";
import { DayInput } from "@/ui/day-input";
import { SearchSelect } from "@/ui/search-select";
import {} from "@/ui/field";
import { EmptyNote, ErrorNote } from "@/ui/notes";
import { PageHead, PageWaiting } from "@/ui/page";
import { apiSend, toastError, useApi } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useRefresh, useWorkspace } from "../../../_lib/workspace";
import { shelvesPath, shelvesState } from "./asks";
import { Builder } from "./builder";
import { NewSetDialog } from "./new-set";
import { HeldNote, ShelfNotes } from "./notes";
import { ShelfPlanks } from "./planks";
import { ShelvesTabs } from "./tabs";
import { useShelfSets } from "./use-shelf-fields";

/** Where the money stands, and whether it is warm: one set of shelves, and its builder. */
export default function ShelvesPage() {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [state, setState] = useQueryStates(shelvesState);
  const [isAdding, setAdding] = useState(false);
  // A ready-made or blank set that is not kept yet.
  const [fresh, setFresh] = useState<ShelfSet | null>(null);
  const sets = useShelfSets();
  const page = useApi<ShelfSetPage>(apiPath(shelvesPath(state)));
  const ownDays = fresh?.windowDays ?? page.data?.definition.windowDays;
  useOwnWindow(ownDays === undefined ? null : `The set’s own: last ${ownDays} days`);
  const close = useCallback(
    (kept?: string | null) => {
      setFresh(null);
      void setState({ edit: false, ...(kept === undefined ? {} : { set: kept }) });
    },
    [setState],
  );
  const newSet = (
    <NewSetDialog
      open={isAdding}
      taken={sets.data?.map(({ definition }) => definition) ?? []}
      onClose={() => setAdding(false)}
      onChoose={(set) => {
        setFresh(set);
        setAdding(false);
      }}
    />
  );
  if (fresh) return <Builder key={fresh.key} definition={fresh} isNew onClose={close} />;
  // With the set on screen a reading that fails is no reason to take the draft away that somebody is editing.
  if (page.error && !page.data) {
    return (
      <div className="space-y-4">
        <PageHead title="Shelves">
          <Button onClick={() => void setState({ set: null, on: null })}>Go to the first set</Button>
        </PageHead>
        <ShelvesTabs />
        <ErrorNote error={page.error.failure} />
      </div>
    );
  }
  if (!page.data)
    return (
      <PageWaiting title="Shelves" what="the shelves" error={null}>
        <ShelvesTabs />
      </PageWaiting>
    );
  if (state.edit) return <Builder key={state.set} definition={page.data.definition} onClose={close} />;
  const recompute = async (accept = false) => {
    try {
      const { moved, held } = await apiSend<{ moved: number; held: boolean }>(
        apiPath(`shelf-sets/${state.set}/recompute${accept ? "?accept=true" : ""}`),
      );
      if (held) toast.info("More items would move than this set lets pass. Look at them first.");
      else toast.success(moved === 0 ? "Nothing new: every item stays." : `${plural(moved, "item")} moved.`);
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <div className="space-y-3">
      <SetHead page={page.data} on={state.on}>
        <SearchSelect
          label="Shelf set"
          className="w-48!"
          value={state.set}
          choices={(sets.data ?? [{ definition: page.data.definition }]).map(({ definition: { key, name } }) => ({
            value: key,
            label: name,
          }))}
          onChange={(set) => void setState({ set, on: null })}
        />
        <Button onClick={() => setAdding(true)}>
          <Plus aria-hidden className="size-3.5" /> New set
        </Button>
        <Button onClick={() => void setState({ edit: true, on: null })}>Edit shelves</Button>
      </SetHead>
      <div className="relative">
        <ShelvesTabs />
        <span className="absolute right-0 bottom-1 flex items-center gap-1">
          {page.data.to && (
            <label className="flex items-center gap-1.5 text-sm text-soft">
              as on
              <DayInput
                aria-label="As it stood on"
                title="Show the set as it stood at the end of an earlier day"
                className="h-7! w-34!"
                value={state.on ?? ""}
                max={page.data.to}
                onChange={(text) => void setState({ on: text || null })}
              />
            </label>
          )}
          {page.data.items > 0 && (
            <Button
              look="quiet"
              onClick={() => void recompute()}
              title="Shelves follow readings, reports and market days by themselves"
            >
              Recompute
            </Button>
          )}
        </span>
      </div>
      <HeldNote page={page.data} onAccept={() => void recompute(true)} />
      <Body page={page.data} set={state.set} />
      {newSet}
    </div>
  );
}

/** What the figures of an earlier day leave out or count in, since they are of the items there are now. */
function sinceWords({ left, came }: NonNullable<ShelfSetPage["since"]>): string {
  return [
    left > 0 ? `, without ${plural(left, "item")} gone since` : "",
    came > 0 ? `, with ${plural(came, "item")} that came later on the last shelf` : "",
  ].join("");
}

function SetHead({ page, on, children }: { page: ShelfSetPage; on: string | null; children: React.ReactNode }) {
  const { slug, timeZone } = useWorkspace();
  const { definition, items, from, to, computedAt } = page;
  return (
    <PageHead
      title="Shelves"
      facts={
        <span
          title={computedAt ? `Computed ${formatMoment(computedAt, timeZone)}` : undefined}
          suppressHydrationWarning
        >
          {formatCount(items)} items · goal {definition.goal}
          {from && ` · ${definition.windowDays} days to ${dayLabel(parseDay(to!))}`}
          {on && " · as it stood that evening"}
          {page.since && sinceWords(page.since)}
        </span>
      }
    >
      {children}
      {items > 0 && (
        <Link className={buttonClasses("ember")} href={`/w/${slug}/planogram?plan=new&by=shelf:${definition.key}`}>
          Plan campaigns
        </Link>
      )}
    </PageHead>
  );
}

function Body({ page, set }: { page: ShelfSetPage; set: string }) {
  const { slug } = useWorkspace();
  if (page.items === 0) {
    return (
      <EmptyNote title="Items will stand on shelves here">
        Upload a feed first.{" "}
        <Link className="text-petrol underline" href={`/w/${slug}/catalogue?upload=true`}>
          Go to the catalogue
        </Link>
      </EmptyNote>
    );
  }
  return (
    <>
      {!page.from && (
        <p className="rounded-md bg-petrol-wash px-3 py-2">
          No results yet, so every item is unread. Plan and dispatch a structure and run some days, or bring report
          files in; shelves follow by themselves.
        </p>
      )}
      <ShelfNotes page={page} />
      <ShelfPlanks page={page} set={set} />
    </>
  );
}
