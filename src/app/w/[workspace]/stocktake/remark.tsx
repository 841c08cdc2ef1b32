"use client";

import { useState } from "react";
import type { ChapterKey } from "@/core/stocktake/chapters";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Field } from "@/ui/field";
import { apiSend, toastError } from "../../../_lib/api";
import { useApiPath, useRefresh } from "../../../_lib/workspace";

/** Opens what somebody writes into a chapter of the report. */
export function Remark({
  stocktake,
  chapter,
  text,
  title,
}: {
  stocktake: number;
  chapter: ChapterKey;
  text: string;
  title: string;
}) {
  const [isOpen, setOpen] = useState(false);
  return (
    <>
      <Button look="quiet" onClick={() => setOpen(true)}>
        {text ? "Change remark …" : "Remark …"}
        <span className="sr-only"> on {title}</span>
      </Button>
      {isOpen && (
        <RemarkDialog
          stocktake={stocktake}
          chapter={chapter}
          text={text}
          title={title}
          onClose={() => setOpen(false)}
        />
      )}
    </>
  );
}

function RemarkDialog({
  stocktake,
  chapter,
  text,
  title,
  onClose,
}: {
  stocktake: number;
  chapter: ChapterKey;
  text: string;
  title: string;
  onClose: () => void;
}) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [value, setValue] = useState(text);
  const save = async () => {
    try {
      await apiSend(apiPath(`stocktakes/${stocktake}`), { remark: { chapter, text: value } }, "PUT");
      onClose();
      await refresh();
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <Dialog open onClose={onClose} title={`Remark on ${title}`}>
      <Field label="What you want to say about it" hint="It stands in the report as you write it, masked reports too.">
        {(props) => (
          <textarea
            {...props}
            autoFocus
            rows={6}
            maxLength={5000}
            value={value}
            onChange={(event) => setValue(event.target.value)}
            className="w-full rounded-md border border-line bg-surface p-2 text-sm"
          />
        )}
      </Field>
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button look="ember" onClick={() => void save()}>
          Keep the remark
        </Button>
      </div>
    </Dialog>
  );
}
