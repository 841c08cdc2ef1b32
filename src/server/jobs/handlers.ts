import { feedImport } from "../catalogue/import-feed";
import { dispatchJob } from "../dispatch/send";
import { marketRun } from "../market/run-days";
import { planogramApply } from "../planogram/apply";
import type { JobHandlers } from "./work";

/** Every kind of job with its handler. */
export const jobHandlers: JobHandlers = {
  "feed-import": feedImport,
  "planogram-apply": planogramApply,
  dispatch: dispatchJob,
  "market-run": marketRun,
};
