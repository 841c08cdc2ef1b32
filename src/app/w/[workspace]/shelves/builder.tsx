import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { plural } from "@/core/kit/format";
import { versionOf } from "@/core/kit/version-of";
import { withPlainNames } from "@/core/shelves/plain-names";
import { shelfSetSchema, type ShelfRule, type ShelfSet } from "@/core/shelves/shelf-set";
import type { ShelfSetPage } from "@/server/shelves/blocks";
import { Button } from "@/ui/button";
import { PageHead } from "@/ui/page";
import { useSettled } from "@/ui/use-settled";
import { sayDone } from "../../../_lib/undo";
import { ApiError, apiDelete, apiSend, toastError, toastMeanwhile, useAsk } from "../../../_lib/api";
import { useApiPath, useOwnWindow, useRefresh } from "../../../_lib/workspace";
import { BuilderChart } from "./builder-chart";
import { BuilderSettings } from "./builder-settings";
import { BuilderShelves } from "./builder-shelves";
import { ShelfNotes } from "./notes";
import { ShelfPlanks } from "./planks";
import { useLiveFigures } from "./use-live";

/** Builds a set: what every change does stands there at once, before it is kept. */
export function Builder({
  definition,
  isNew = false,
  onClose,
}: {
  definition: ShelfSet;
  isNew?: boolean;
  /** With the key of the set when it was kept, or null when it was taken away. */
  onClose: (kept?: string | null) => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [draft, setDraft] = useState(definition);
  const [seen] = useState(() => versionOf(definition));
  const [open, setOpen] = useState<string | null>(null);
  useOwnWindow(`The set’s own: last ${draft.windowDays || "…"} days`);
  const parsed = shelfSetSchema.safeParse(draft);
  const fault = parsed.success ? null : (parsed.error.issues[0]?.message ?? "Something is not right.");
  const asked: unknown = JSON.parse(useSettled(JSON.stringify(draft), 350));
  const preview = useAsk<ShelfSetPage>(apiPath("shelf-sets/preview"), asked, {
    enabled: shelfSetSchema.safeParse(asked).success,
    placeholderData: (before) => before,
  });
  const { figures, error: liveError } = useLiveFigures(draft);
  const error = preview.error ?? liveError;
  const change = (next: ShelfSet) => setDraft((old) => withPlainNames(old, next));
  const changeShelf = (at: number, shelf: ShelfRule) =>
    change({ ...draft, shelves: draft.shelves.map((other, i) => (i === at ? shelf : other)) });
  const add = (shelf: ShelfRule) => {
    change({ ...draft, shelves: [...draft.shelves, shelf] });
    setOpen(shelf.key);
  };
  const save = async (since = isNew ? "" : `?since=${seen}`) => {
    try {
      const { computed } = await apiSend<{ computed: { moved: number } | null }>(
        apiPath(`shelf-sets${since}`),
        draft,
        "PUT",
      );
      toast.success(isNew ? `“${draft.name}” is kept` : `Kept; ${plural(computed?.moved ?? 0, "item")} moved.`);
      await refresh();
      onClose(draft.key);
    } catch (error) {
      toastMeanwhile(error, () => void save(""));
    }
  };
  const remove = async () => {
    try {
      await apiDelete(apiPath(`shelf-sets/${draft.key}`));
      sayDone(`“${definition.name}” is gone`, () => apiSend(apiPath(`shelf-sets/${draft.key}/restore`)).then(refresh));
      onClose(null);
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  // What was not touched goes on with its memory, so nobody moves.
  const isTouched = versionOf(draft) !== seen;
  const moved = isTouched ? (figures?.moved ?? preview.data?.moved ?? null) : null;
  return (
    <div className="space-y-3">
      <PageHead title={isNew ? `New: ${draft.name}` : `Edit ${definition.name}`} facts={draft.about || undefined}>
        <span role="status" className="max-w-96 text-sm font-semibold text-ember">
          {fault ?? (error instanceof ApiError ? error.failure.message : error?.message)}
        </span>
        {!fault && !isNew && moved !== null && (
          <span className="text-sm text-soft num">
            {moved === 0 ? "nobody would move" : `${plural(moved, "item")} would move`}
          </span>
        )}
        {!isNew && (
          <Button look="quiet" onClick={() => void remove()}>
            <Trash2 aria-hidden className="size-3.5" /> Remove set
          </Button>
        )}
        <Button onClick={() => onClose()}>Leave as it was</Button>
        <Button look="ember" disabled={fault !== null} onClick={() => void save()}>
          {isNew ? "Keep this set" : "Keep these shelves"}
        </Button>
      </PageHead>
      <BuilderSettings draft={draft} onChange={change} />
      <BuilderChart
        draft={draft}
        open={open}
        cuts={preview.data?.shelves.map(({ cutAt }) => cutAt) ?? []}
        onChange={changeShelf}
      />
      <BuilderShelves
        draft={draft}
        isKept={!isNew}
        figures={figures}
        cuts={preview.data?.shelves.map(({ cutAt }) => cutAt) ?? []}
        open={open}
        onOpen={setOpen}
        onChange={change}
        onShelf={changeShelf}
      />
      <AddShelf draft={draft} onAdd={add} />
      {preview.data && (
        <div aria-label="Preview" className="space-y-3">
          <ShelfNotes page={preview.data} />
          <ShelfPlanks page={preview.data} set={draft.key} />
        </div>
      )}
    </div>
  );
}

function AddShelf({ draft, onAdd }: { draft: ShelfSet; onAdd: (shelf: ShelfRule) => void }) {
  const free = (word: string) => {
    for (let no = draft.shelves.length + 1; ; no++) {
      const name = `${word} ${no}`;
      const key = name.toLowerCase().replace(/[^a-z0-9]+/g, "-");
      if (!draft.shelves.some((shelf) => shelf.key === key || shelf.name === name)) return { key, name };
    }
  };
  const base = { heat: null, goal: null, note: "", lookAgain: null };
  const last = draft.shelves.findLast((shelf) => shelf.kind === "band");
  const metric = last?.kind === "band" ? last.metric : "roas";
  return (
    <div className="flex items-center gap-2 text-sm">
      <span className="text-soft">Add a shelf:</span>
      <Button
        onClick={() =>
          onAdd({
            ...{
              ...base,
              ...free("Band"),
              kind: "band",
              metric,
              side: "above",
              evidence: last?.kind === "band" && last.evidence,
            },
            cut: { by: "share", share: 0.1 },
          })
        }
      >
        <Plus aria-hidden className="size-3.5" /> cut by a metric
      </Button>
      <Button
        onClick={() =>
          onAdd({
            ...{ ...base, ...free("Rule"), kind: "rule" },
            where: { match: "all", of: [{ field: "availability", op: "is", value: "out of stock" }] },
          })
        }
      >
        <Plus aria-hidden className="size-3.5" /> by rule
      </Button>
      <Button onClick={() => onAdd({ ...base, ...free("Picked"), kind: "pick", families: false })}>
        <Plus aria-hidden className="size-3.5" /> picked by hand
      </Button>
    </div>
  );
}
