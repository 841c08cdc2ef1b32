"use client";

import { Download } from "lucide-react";
import { parseAsString, useQueryState } from "nuqs";
import { useMemo, useState } from "react";
import { plural } from "@/core/kit/format";
import type { Planogram } from "@/core/planogram/planogram";
import type { AccountView } from "@/server/planogram/workbench";
import { Button, buttonClasses } from "@/ui/button";
import { EmptyNote } from "@/ui/notes";
import { PageHead } from "@/ui/page";
import { useDays, useWorkspace } from "../../../_lib/workspace";
import { ReadBack } from "./read-back";
import { ExportDialog } from "./export-dialog";
import { Folders } from "./folders";
import { OutOfStepList } from "./out-of-step";
import { PlanogramTabs } from "./tabs";
import { WorkbenchTable } from "./workbench-table";

/** The account as it is with the basket on it: campaigns, ad groups and product groups, picked and edited in place. */
export function Workbench({
  view,
  planograms,
  onPlan,
}: {
  view: AccountView;
  planograms: Planogram[];
  onPlan: (key: string) => void;
}) {
  const { slug } = useWorkspace();
  const [days] = useDays();
  const [isReading, setReading] = useState(false);
  const [isExporting, setExporting] = useState(false);
  const [q, setQ] = useQueryState("q", parseAsString.withDefault(""));
  const [folder, setFolder] = useQueryState("folder");
  // The ad groups of campaigns that are not shown have nothing to hang in, so the table leaves them out.
  const shown = useMemo(
    () => ({
      ...view,
      lines: view.lines.filter((line) => folder === null || line.level !== "campaign" || line.folder === folder),
    }),
    [view, folder],
  );
  const campaigns = view.lines.filter((line) => line.level === "campaign");
  const adGroups = view.lines.filter((line) => line.level === "adGroup");
  const leaks = campaigns.reduce((sum, campaign) => sum + (campaign.status === "on" ? campaign.leaks : 0), 0);
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead
        title="Planogram"
        facts={`${plural(campaigns.filter((c) => c.status === "on").length, "running campaign")} · ${plural(adGroups.length, "ad group")} · ${
          leaks === 0 ? "no leaks" : plural(leaks, "leak")
        }`}
      >
        <a className={buttonClasses("plain")} href={`/api/v1/${slug}/structure?format=csv`} download>
          <Download aria-hidden className="size-3.5" /> CSV
        </a>
        <Button onClick={() => setExporting(true)}>Export</Button>
        <Button onClick={() => setReading(true)}>Read a file back</Button>
        {planograms.map((planogram) => (
          <Button key={planogram.key} onClick={() => onPlan(planogram.key)}>
            Replan {planogram.name}
          </Button>
        ))}
        <Button look="ember" onClick={() => onPlan("new")}>
          Plan campaigns
        </Button>
      </PageHead>
      <PlanogramTabs />
      <OutOfStepList />
      {campaigns.length === 0 ? (
        <EmptyNote
          title="Your campaigns will stand here"
          action={
            <Button look="ember" onClick={() => onPlan("new")}>
              Plan campaigns
            </Button>
          }
        >
          A planogram splits the catalogue into campaigns and groups by the fields you choose, proves that every item
          has one home, and closes every remainder.
        </EmptyNote>
      ) : (
        <>
          <Folders campaigns={campaigns} chosen={folder} onChoose={(name) => void setFolder(name)} />
          <WorkbenchTable view={shown} q={q} onSearch={(text) => void setQ(text || null)} />
          <p className="text-xs text-soft">
            Results of the last {days} days; in grey what the items of new groups did before. Edits go into the basket
            and can be taken back there.
          </p>
        </>
      )}
      {isExporting && <ExportDialog onClose={() => setExporting(false)} />}
      {isReading && <ReadBack onClose={() => setReading(false)} />}
    </div>
  );
}
