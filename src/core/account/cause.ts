import { z } from "zod";

/** Where a change of the account comes from, each with what its ID says. */
export const CAUSE_KINDS = {
  /** A person's act: its name. */
  act: "by hand",
  /** An edit that was taken back before it was sent. */
  undo: "taken back",
  /** A planogram that was applied, or kept in step: its key. */
  planogram: "planogram",
  step: "kept in step",
  /** A copy plan that was applied: its key. */
  copy: "copy plan",
  /** Targets that somebody aimed at. */
  aim: "targets",
  /** A structure's file that was read back. */
  file: "file",
  /** Records put in by a script or for what has no act. */
  records: "records",
  /** Moves that were accepted together: the number under which they are kept. */
  move: "moves",
  /** An experiment that was begun, switched or ended: its number. */
  experiment: "experiment",
  /** Changes of a dispatch taken back through the basket: its number. */
  "take-back": "dispatch taken back",
} as const;

export type CauseKind = keyof typeof CAUSE_KINDS;

/** What a change comes from. Everything that follows changes up asks by this, never by a sentence. */
export const causeSchema = z.object({
  kind: z.enum(Object.keys(CAUSE_KINDS) as [CauseKind, ...CauseKind[]]),
  id: z.string().max(600),
});
export type Cause = z.infer<typeof causeSchema>;
