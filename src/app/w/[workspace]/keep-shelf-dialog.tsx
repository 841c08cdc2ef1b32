"use client";

import Link from "next/link";
import { useState } from "react";
import { toast } from "sonner";
import type { Where } from "@/core/catalogue/where";
import { plural } from "@/core/kit/format";
import type { KeptShelf } from "@/server/shelves/keep";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field, Select, TextInput } from "@/ui/field";
import { Loading } from "@/ui/notes";
import { apiSend, toastError } from "../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../_lib/workspace";
import { useShelfSets } from "./shelves/use-shelf-fields";

/** What becomes a shelf: conditions with what was searched, items one by one, or a pasted list. */
export interface KeptAs {
  where?: Where;
  q?: string;
  shelf?: string;
  ids?: string[];
}

const NEW = "";

/** Keeps a filter, a pick or a cell of two sets as a shelf: its name, the set it goes into, done. */
export function KeepShelfDialog({
  what,
  count,
  suggestion = "",
  not = [],
  onClose,
}: {
  what: KeptAs;
  /** Items it holds now, where that is known. */
  count: number | null;
  suggestion?: string;
  /** Sets that it can't go into, since it asks about them. */
  not?: string[];
  onClose: () => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const { slug } = useWorkspace();
  const known = useShelfSets();
  const sets = (known.data ?? []).filter(({ definition }) => !not.includes(definition.key));
  const own = sets.find(({ definition }) => definition.name === "My shelves");
  const [chosen, setChosen] = useState<string | null>(null);
  const [name, setName] = useState(suggestion);
  const [newSet, setNewSet] = useState("My shelves");
  const [busy, setBusy] = useState(false);
  const set = chosen ?? own?.definition.key ?? NEW;
  const isPick = what.ids !== undefined;
  const keep = async () => {
    setBusy(true);
    try {
      const into = set === NEW ? { newSet } : { set };
      const kept = await apiSend<KeptShelf>(apiPath("shelf-sets/keep"), { ...what, ...into, name });
      toast.success(`“${name}” holds ${plural(kept.items, "item")}.`, {
        action: (
          <Link className="ml-auto text-petrol underline" href={`/w/${slug}/shelves?set=${kept.set}`}>
            See it
          </Link>
        ),
      });
      onClose();
      await refresh();
    } catch (error) {
      toastError(error);
    }
    setBusy(false);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={
        isPick
          ? `Put ${plural(count ?? 0, "item")} on a shelf`
          : count === null
            ? "Keep as a shelf"
            : `Keep ${plural(count, "item")} as a shelf`
      }
    >
      {/* Which set it goes into has to be known first: a form that changes while it is filled in is clicked amiss. */}
      {known.isPending ? (
        <Loading what="the sets" />
      ) : (
        <form
          className="space-y-3"
          onSubmit={(event) => {
            event.preventDefault();
            void keep();
          }}
        >
          <Field label="Name of the shelf">
            {(props) => (
              <TextInput
                {...props}
                autoFocus
                maxLength={40}
                value={name}
                onChange={(event) => setName(event.target.value)}
              />
            )}
          </Field>
          <Field
            label="In the set"
            hint={set === NEW ? undefined : "It comes first there, so it takes its items before the other shelves do."}
          >
            {(props) => (
              <Select {...props} value={set} onChange={(event) => setChosen(event.target.value)}>
                {sets.map(({ definition }) => (
                  <option key={definition.key} value={definition.key}>
                    {definition.name}
                  </option>
                ))}
                <option value={NEW}>a new set</option>
              </Select>
            )}
          </Field>
          {set === NEW && (
            <Field label="Name of the new set">
              {(props) => (
                <TextInput
                  {...props}
                  maxLength={60}
                  value={newSet}
                  onChange={(event) => setNewSet(event.target.value)}
                />
              )}
            </Field>
          )}
          <p className="text-sm text-soft">
            {isPick
              ? "A hand-picked shelf holds just these items until somebody changes the list. A shelf of that name takes them in."
              : "The shelf keeps the conditions: items come and go by themselves, over the set’s own days."}
          </p>
          <div className="flex justify-end gap-2">
            <Button onClick={onClose}>Leave it</Button>
            <Button
              look="ember"
              type="submit"
              disabled={busy || name.trim() === "" || (set === NEW && newSet.trim() === "")}
            >
              {isPick ? "Put on the shelf" : "Keep as a shelf"}
            </Button>
          </div>
        </form>
      )}
    </Dialog>
  );
}
