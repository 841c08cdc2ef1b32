"use client";

import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { Bookmark, X } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import type { SavedView } from "@/server/catalogue/notes";
import { Button } from "@/ui/button";
import { TextInput } from "@/ui/field";
import { sayDone } from "../../_lib/undo";
import { apiDelete, apiSend, toastError, useApi } from "../../_lib/api";
import { useApiPath, useRefresh } from "../../_lib/workspace";

/** Views of a screen kept under a name, and the way to keep the one that is open. */
export function SavedViews({
  screen,
  current,
  onOpen,
}: {
  screen: "catalogue" | "results";
  /** The open view, as the URL would hold it. */
  current: Record<string, string>;
  onOpen: (state: Record<string, string>) => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [name, setName] = useState("");
  const views = useApi<SavedView[]>(apiPath(`views?screen=${screen}`)).data ?? [];
  const save = async (view: { name: string; state: Record<string, string> }) => {
    await apiSend(apiPath("views"), { screen, ...view });
    await refresh();
  };
  const remove = async (view: SavedView) => {
    await apiDelete(apiPath(`views/${view.id}`));
    await refresh();
    sayDone(`View "${view.name}" removed`, () => save(view));
  };
  return (
    <Popover className="relative">
      <PopoverButton as={Button} look="quiet">
        <Bookmark aria-hidden className="size-3.5" /> Views
      </PopoverButton>
      <PopoverPanel className="absolute right-0 z-20 mt-1 w-72 rounded-lg border border-line bg-surface p-3 shadow-lg">
        {({ close }) => (
          <>
            {views.length === 0 && (
              <p className="mb-2 text-sm text-soft">Search, filters, order and columns can be kept under a name.</p>
            )}
            <ul className="mb-2 max-h-64 overflow-y-auto">
              {views.map((view) => (
                <li key={view.id} className="flex items-center">
                  <button
                    type="button"
                    className="flex-1 truncate rounded px-2 py-1 text-left hover:bg-raised"
                    onClick={() => {
                      onOpen(view.state);
                      close();
                    }}
                  >
                    {view.name}
                  </button>
                  <button
                    type="button"
                    aria-label={`Remove the view ${view.name}`}
                    className="rounded p-1 text-soft hover:bg-raised"
                    onClick={() => void remove(view).catch(toastError)}
                  >
                    <X aria-hidden className="size-3.5" />
                  </button>
                </li>
              ))}
            </ul>
            <form
              className="flex gap-2"
              onSubmit={(event) => {
                event.preventDefault();
                if (name.trim() === "") return;
                void save({ name: name.trim(), state: current })
                  .then(() => toast.success(`View "${name.trim()}" kept`))
                  .then(() => setName(""))
                  .catch(toastError);
              }}
            >
              <TextInput
                aria-label="Name of this view"
                placeholder="Name of this view"
                value={name}
                onChange={(event) => setName(event.target.value)}
              />
              <Button type="submit" disabled={name.trim() === ""}>
                Keep
              </Button>
            </form>
          </>
        )}
      </PopoverPanel>
    </Popover>
  );
}
