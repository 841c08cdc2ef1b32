import { feedFetch } from "../catalogue/fetch-feed";
import { catalogueFinish } from "../catalogue/finish";
import { feedImport } from "../catalogue/import-feed";
import { accountEdit, accountEditUndo } from "../across/catalogue/edit-many";
import { linkCheck } from "../across/catalogue/link-check";
import { channelPlacesJob } from "../dispatch/channel-places";
import { channelReportsJob } from "../dispatch/channel-reports";
import { channelReadJob } from "../dispatch/read-channel";
import { dispatchJob } from "../dispatch/send";
import { experimentsJob } from "../experiments/job";
import { marketCompare } from "../market/compare";
import { marketRun } from "../market/run-days";
import { reportUndo } from "../results/reports/undo-job";
import { reportImport } from "../results/reports/import-report";
import { copyApply } from "../copy/apply";
import { copyKeepUp } from "../copy/keep-up";
import { planogramApply } from "../planogram/apply";
import { planogramSteps } from "../planogram/in-step";
import { shelvesJob } from "../shelves/job";
import { stocktakeJob } from "../stocktake/job";
import { alertsJob } from "../alerts/look";
import { alertMessagesJob } from "../alerts/messages";
import { makeReadyJob } from "./make-ready";
import { standingOrdersJob } from "../standing/job";
import type { JobHandlers } from "../jobs/work";

/** Every kind of job with its handler. */
export const jobHandlers: JobHandlers = {
  "feed-import": feedImport,
  "feed-fetch": feedFetch,
  "catalogue-finish": catalogueFinish,
  "link-check": linkCheck,
  "planogram-apply": planogramApply,
  "copy-apply": copyApply,
  "copy-keep-up": copyKeepUp,
  dispatch: dispatchJob,
  "market-run": marketRun,
  "market-compare": marketCompare,
  "report-import": reportImport,
  "report-undo": reportUndo,
  "account-edit": accountEdit,
  "account-edit-undo": accountEditUndo,
  shelves: shelvesJob,
  "planogram-steps": planogramSteps,
  "channel-places": channelPlacesJob,
  "channel-read": channelReadJob,
  "channel-reports": channelReportsJob,
  "standing-orders": standingOrdersJob,
  experiments: experimentsJob,
  stocktake: stocktakeJob,
  alerts: alertsJob,
  "alert-messages": alertMessagesJob,
  "make-ready": makeReadyJob,
};
