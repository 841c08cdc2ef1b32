import { z } from "zod";
import { FailureError } from "@/core/kit/outcome";
import type { JobHandler } from "../../jobs/work";
import { takeBackReport } from "./take-back";

/** Takes a report import back. Broken off, it goes on with the days that are left when it is run again. */
export const reportUndo: JobHandler = {
  async run({ db }, raw) {
    const { import: id } = z.object({ import: z.int() }).parse(raw);
    const outcome = await takeBackReport(db, id);
    if (!outcome.ok) throw new FailureError(outcome.error);
    return outcome.value;
  },
  async rollBack() {},
};
