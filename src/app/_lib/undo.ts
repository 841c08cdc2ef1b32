"use client";

import { useEffect } from "react";
import { toast } from "sonner";
import { isTaken } from "@/ui/use-keys";
import { toastError } from "./api";

/** How long a message stays that offers to take something back, ms: long enough to read it, look, and think again. */
const WAY_BACK_MS = 30_000;
/** Things done that can be taken back one after the other. */
const MOST = 100;

/** Something of one's own that was done in this tab, and the way back. */
interface Done {
  /** What was done, as it was said. */
  words: string;
  takeBack: () => Promise<unknown>;
  workspace: string;
  message: string | number;
}

let done: Done[] = [];

const workspaceHere = () => window.location.pathname.split("/")[2] ?? "";

async function takeBack(one: Done): Promise<void> {
  done = done.filter((other) => other !== one);
  toast.dismiss(one.message);
  try {
    await one.takeBack();
    toast.info(`Taken back: ${one.words}`);
  } catch (error) {
    // What is refused now, as when others went on from it, is refused with its reason, and not tried again.
    toastError(error);
  }
}

/**
 * Says what was done, with a way back: for half a minute in the message, and by Ctrl+Z as long as the tab is open.
 * @param words what was done
 * @param undo takes it back, and has the page read its figures anew
 */
export function sayDone(words: string, undo: () => Promise<unknown>): void {
  const one: Done = { words, takeBack: undo, workspace: workspaceHere(), message: "" };
  one.message = toast.success(words, {
    duration: WAY_BACK_MS,
    action: { label: "Take back", onClick: () => void takeBack(one) },
  });
  done = [...done, one].slice(-MOST);
}

/** Takes back the last of one's own edits in this workspace, and says what that was. */
export function takeLastBack(): void {
  const last = done.findLast(({ workspace }) => workspace === workspaceHere());
  if (last) void takeBack(last);
  else
    toast.info("Nothing of yours is left to take back here.", {
      description: "What waits to be sent is under Dispatch.",
    });
}

/** Has Ctrl+Z take back the last edit, but in fields, where it means what was typed. */
export function useUndoKey(): void {
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const isUndo =
        (event.ctrlKey || event.metaKey) && !event.shiftKey && !event.altKey && event.key.toLowerCase() === "z";
      if (!isUndo || isTaken(event)) return;
      event.preventDefault();
      takeLastBack();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}
