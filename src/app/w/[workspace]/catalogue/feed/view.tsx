"use client";

import { formatDistanceToNowStrict } from "date-fns";
import { RefreshCw } from "lucide-react";
import { parseAsInteger, useQueryState } from "nuqs";
import { toast } from "sonner";
import { formatCount, formatMoment, plural } from "@/core/kit/format";
import type { Refresh } from "@/server/catalogue/history";
import { Button } from "@/ui/button";
import { EmptyNote, ErrorNote, Loading } from "@/ui/notes";
import { PageHead, Surface } from "@/ui/page";
import { apiSend, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { CatalogueTabs } from "../tabs";
import { FEED } from "../upload-dialog";
import { useFeeds } from "../use-feeds";
import { CostsCard } from "./costs-card";
import { TaxCard } from "./tax-card";
import { RefreshDetail } from "./refresh-detail";
import { SourceCard } from "./source-card";

/** Where the feed comes from, how fresh it is, and what each reading changed. */
export default function FeedPage() {
  const apiPath = useApiPath();
  const { timeZone } = useWorkspace();
  const refresh = useRefresh();
  const feeds = useFeeds();
  const refreshes = useApi<Refresh[]>(apiPath("refreshes"));
  const [open, setOpen] = useQueryState("refresh", parseAsInteger);
  const problem = feeds.error ?? refreshes.error;
  // All cards at once: one that came later would push the others from where somebody is about to click.
  if (!feeds.data || !refreshes.data) {
    return (
      <div className="flex flex-col gap-3">
        <PageHead title="Catalogue" />
        <CatalogueTabs feeds={feeds.data} />
        {problem ? <ErrorNote error={problem.failure} /> : <Loading what="the feed" />}
      </div>
    );
  }
  const [feed] = feeds.data.feeds;
  const list = refreshes.data;
  const shown = list.find(({ id }) => id === open) ?? list[0];
  const fetchNow = async (acceptLoss: boolean) => {
    await apiSend(apiPath(`feeds/${FEED}/fetch`), { acceptLoss });
    toast.info("Fetching the feed. It is shown on top until it has been read.");
    await refresh();
  };
  if (!feed) {
    return (
      <div className="flex flex-col gap-3">
        <PageHead title="Catalogue" />
        <CatalogueTabs feeds={feeds.data} />
        <EmptyNote title="No feed yet">Connect one under Items. Its history and freshness will stand here.</EmptyNote>
      </div>
    );
  }
  return (
    <div className="flex flex-col gap-3">
      <PageHead
        title="Catalogue"
        facts={
          feed.readAt && (
            <span suppressHydrationWarning>
              {feed.fileName}, read {formatDistanceToNowStrict(feed.readAt, { addSuffix: true })}
            </span>
          )
        }
      >
        {feed.source && (
          <Button look="ember" onClick={() => void fetchNow(false).catch(toastError)}>
            <RefreshCw aria-hidden className="size-3.5" /> Fetch now
          </Button>
        )}
      </PageHead>
      <CatalogueTabs feeds={feeds.data} />
      {feed.trouble && (
        <div>
          <ErrorNote
            error={{
              ...feed.trouble,
              message: `${formatMoment(feed.trouble.at, timeZone)}: ${feed.trouble.message}`,
              hint: `The catalogue last read well stays in force. ${feed.trouble.hint ?? ""}`,
            }}
          />
          {feed.source && ["feed-loses-too-much", "feed-shape-changed"].includes(feed.trouble.code) && (
            <Button onClick={() => void fetchNow(true).catch(toastError)}>Fetch and allow the loss</Button>
          )}
        </div>
      )}
      <div className="grid grid-cols-[320px_minmax(0,1fr)] items-start gap-3">
        <div className="space-y-3">
          <Surface title="Readings">
            <ul className="-mx-2 max-h-56 overflow-y-auto">
              {list.map((entry) => (
                <li key={entry.id}>
                  <button
                    type="button"
                    aria-current={entry.id === shown?.id ? "true" : undefined}
                    onClick={() => void setOpen(entry.id)}
                    className={`w-full rounded px-2 py-1 text-left text-sm num ${entry.id === shown?.id ? "bg-petrol-wash" : "hover:bg-raised"}`}
                  >
                    <b>{formatMoment(entry.at, timeZone)}</b>
                    <span className="block text-xs text-soft">{countsLine(entry)}</span>
                  </button>
                </li>
              ))}
            </ul>
          </Surface>
          <SourceCard key={JSON.stringify(feed.source)} feed={feed} inbox={feeds.data.inbox} />
          <CostsCard covered={feeds.data.costs} />
          <TaxCard />
        </div>
        {shown && <RefreshDetail key={shown.id} refresh={shown} />}
      </div>
    </div>
  );
}

function countsLine({ counts, isFirst }: Refresh): string {
  if (isFirst) return `${formatCount(counts.stored)} items, the first reading`;
  const parts = [
    counts.new > 0 ? `${formatCount(counts.new)} new` : "",
    counts.changed > 0 ? `${formatCount(counts.changed)} changed` : "",
    (counts.soldOut ?? 0) > 0 ? `${formatCount(counts.soldOut ?? 0)} sold out` : "",
    counts.gone > 0 ? `${formatCount(counts.gone)} gone` : "",
  ].filter(Boolean);
  return parts.length > 0 ? parts.join(", ") : `nothing changed in ${plural(counts.stored, "item")}`;
}
