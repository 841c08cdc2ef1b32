"use client";

import Link from "next/link";
import { useState } from "react";
import { toast } from "sonner";
import { SEVERITY_LABEL, type Severity } from "@/core/catalogue/findings/finding";
import { formatCount, formatShare, plural } from "@/core/kit/format";
import type { Diagnostic } from "@/server/across/catalogue/diagnose";
import type { AsideRow } from "@/server/catalogue/feeds";
import { Button, buttonClasses } from "@/ui/button";
import { cx } from "@/ui/cx";
import { EmptyNote, ErrorNote, Loading } from "@/ui/notes";
import { PageHead, Surface } from "@/ui/page";
import { sayDone } from "../../../../_lib/undo";
import { apiGet, apiSend, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { ItemActionDialog, type ItemAction } from "../../item-actions";
import { CatalogueTabs } from "../tabs";
import { useFeeds } from "../use-feeds";
import { asidePath } from "./asks";
import { LinkCheckCard } from "./link-check-card";
import { TeachDialog } from "./teach-dialog";

/** The filter that shows the items with a fault. */
function faultFilter(code: string): string {
  return JSON.stringify({ match: "all", of: [{ field: `fault:${code}`, op: "filled", value: "" }] });
}

const MARK: Record<Severity, string> = {
  grave: "border-ember text-ember",
  money: "border-ember text-ember",
  repair: "border-petrol text-petrol",
  note: "border-line text-soft",
};

/** Everything that is wrong with the catalogue: how much of the money it touches, why it matters, what repairs it. */
export default function FaultsPage() {
  const { slug } = useWorkspace();
  const feeds = useFeeds();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [action, setAction] = useState<{ action: ItemAction; items: string[] } | null>(null);
  const [isTeaching, setTeaching] = useState(false);
  const faults = feeds.data?.diagnostics ?? [];
  const notes = faults.filter(({ severity }) => severity === "note").length;
  const kinds = `${plural(faults.length - notes, "kind")} of fault${notes > 0 ? `, ${plural(notes, "note")}` : ""}`;
  const setAside = feeds.data?.feeds[0]?.counts?.setAside ?? 0;
  const aside = useApi<{ rows: AsideRow[] }>(setAside > 0 ? apiPath(asidePath) : null);
  const notices = feeds.data?.feeds[0]?.notices ?? [];
  const repair = async (fault: Diagnostic) => {
    const { action: way } = fault;
    if (!way) return;
    if (way.kind === "teach") return setTeaching(true);
    if (way.kind === "exclude") {
      const { ids } = await apiGet<{ ids: string[] }>(
        apiPath(`item-ids?filter=${encodeURIComponent(faultFilter(fault.code))}`),
      );
      return setAction({ action: "exclude", items: ids });
    }
    if (way.kind === "families") {
      await apiSend(apiPath("proposed-families"), { take: true }, "PUT");
      sayDone("Proposed families taken", () =>
        apiSend(apiPath("proposed-families"), { take: false }, "PUT").then(refresh),
      );
    } else {
      if (way.list) await apiSend(apiPath("lookups"), way.list);
      await apiSend(apiPath("derived"), way.field);
      toast.success(`Derived field "${way.field.name}" made; it can be changed under Fields`);
    }
    await refresh();
  };
  return (
    <div className="flex flex-col gap-3">
      <PageHead title="Catalogue" facts={feeds.data && (faults.length === 0 ? "No faults found" : kinds)} />
      <CatalogueTabs feeds={feeds.data} />
      {feeds.error && <ErrorNote error={feeds.error.failure} />}
      {feeds.isPending && <Loading what="the faults" />}
      {notices.map((notice) => (
        <p key={notice} className="rounded-md bg-petrol-wash px-3 py-1.5">
          {notice}
        </p>
      ))}
      {feeds.data && faults.length === 0 && (
        <EmptyNote title="Nothing wrong">Every row was taken in, and no item shows a fault.</EmptyNote>
      )}
      {faults.length > 0 && (
        <div className="overflow-x-auto rounded-lg border border-line bg-surface">
          <table className="w-full text-sm">
            <thead className="text-left text-soft">
              <tr className="border-b border-line">
                <th className="px-3 py-1.5 font-normal">How grave</th>
                <th className="px-3 py-1.5 text-right font-normal">Items</th>
                <th className="px-3 py-1.5 text-right font-normal" title="Of the spend of the last 30 days">
                  Of spend
                </th>
                <th className="px-3 py-1.5 font-normal">What, why it matters, and what repairs it</th>
                <th className="px-3 py-1.5 text-right font-normal">Now</th>
              </tr>
            </thead>
            <tbody>
              {faults.map((fault) => (
                <tr key={`${fault.code}/${fault.isAside}`} className="border-b border-line/70 align-top">
                  <td className="w-28 px-3 py-2">
                    <span
                      className={cx("rounded-full border px-2 py-0.5 text-xs whitespace-nowrap", MARK[fault.severity])}
                    >
                      {SEVERITY_LABEL[fault.severity]}
                    </span>
                  </td>
                  <td className="w-20 px-3 py-2 text-right font-semibold num">{formatCount(fault.count)}</td>
                  <td className="w-24 px-3 py-2 text-right num">
                    {fault.spendShare === null ? "–" : formatShare(fault.spendShare)}
                  </td>
                  <td className="px-3 py-2">
                    <b>{fault.label}</b>{" "}
                    <span className="text-soft">
                      {fault.why} {fault.repair}
                    </span>
                  </td>
                  <td className="w-[310px] px-3 py-1">
                    <span className="flex flex-wrap justify-end gap-1">
                      {fault.action && (
                        <Button onClick={() => void repair(fault).catch(toastError)}>{fault.action.label}</Button>
                      )}
                      {fault.isAside ? (
                        <a className={buttonClasses("quiet")} href={`/api/v1/${slug}/set-aside.csv`} download>
                          Download the rows
                        </a>
                      ) : (
                        <>
                          <Link
                            className={buttonClasses("quiet")}
                            href={`/w/${slug}/catalogue?filter=${encodeURIComponent(faultFilter(fault.code))}`}
                          >
                            Show
                          </Link>
                          <a
                            className={buttonClasses("quiet")}
                            href={`/api/v1/${slug}/items.csv?filter=${encodeURIComponent(faultFilter(fault.code))}`}
                            download
                          >
                            Download
                          </a>
                        </>
                      )}
                    </span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {feeds.data && <LinkCheckCard links={feeds.data.links} />}
      {setAside > 0 && (
        <Surface
          title={`${plural(setAside, "row")} set aside`}
          aside={
            <a className={buttonClasses("quiet")} href={`/api/v1/${slug}/set-aside.csv`} download>
              Download all as CSV
            </a>
          }
        >
          <ul className="divide-y divide-line text-sm">
            {aside.data?.rows.map(({ row, reasons, cells }) => (
              <li key={row} className="py-1">
                <span className="font-mono text-xs">row {row}</span> · <b>{reasons.join(", ")}</b>
                <span className="block truncate text-soft">{cells.join(" · ")}</span>
              </li>
            ))}
          </ul>
        </Surface>
      )}
      <ItemActionDialog action={action?.action ?? null} items={action?.items ?? []} onClose={() => setAction(null)} />
      <TeachDialog open={isTeaching} onClose={() => setTeaching(false)} />
    </div>
  );
}
