"use client";

import { useState, type ReactNode } from "react";
import type { SlotKey } from "@/core/kit/slots";
import { Button } from "@/ui/button";
import { EditEffect } from "./edit-effect";
import { useEdit, type Edit } from "./use-edit";

/** What an act is about. */
export interface ActedOn {
  /** Keys of records; campaigns, for what only campaigns have. */
  keys: string[];
  /** How they are called together, for example "3 campaigns". */
  label: string;
  /** The slot or hours that a factor is for. */
  slot?: SlotKey;
  hours?: number[];
}

/** What a form of an act on records is given. */
export interface FormProps {
  on: ActedOn;
  onClose: () => void;
  onDone: () => void;
}
/** A form that puts one edit into the basket; without an edit there is something to put right first. */
export function EditForm({
  edit: made,
  children,
  onClose,
  onDone,
}: {
  edit: Edit | null;
  children: ReactNode;
  onClose: () => void;
  onDone: () => void;
}) {
  const edit = useEdit(true);
  const [busy, setBusy] = useState(false);
  const submit = async () => {
    if (!made || busy) return;
    setBusy(true);
    await edit(made, onDone);
    setBusy(false);
  };
  return (
    <form
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      {children}
      {made && <EditEffect edit={made} />}
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button look="ember" type="submit" disabled={made === null || busy}>
          Put into the basket
        </Button>
      </div>
    </form>
  );
}
