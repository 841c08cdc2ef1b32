"use client";

import { ArrowLeft, X } from "lucide-react";
import Link from "next/link";
import { usePathname } from "next/navigation";
import Markdown from "react-markdown";
import { guidesBeside, type Guide } from "@/core/guide/guide";
import { Button } from "@/ui/button";
import { ErrorNote, Loading } from "@/ui/notes";
import { useApi } from "../../_lib/api";
import { useWorkspace } from "../../_lib/workspace";
import { Keys } from "./keys-help";

/** Where all guides are asked for. */
export const GUIDE_PATH = "guide";

/** The guide beside the page: the jobs that have to do with it, then the others; one opened, step by step; and the keys. */
export function GuidePanel({
  shown,
  onShow,
  onClose,
}: {
  /** The guide that is open; "" for the list. */
  shown: string;
  onShow: (key: string) => void;
  onClose: () => void;
}) {
  const { slug } = useWorkspace();
  const page = usePathname().replace(`/w/${slug}`, "").replace(/^\//, "").split("/")[0]!;
  const guides = useApi<Guide[]>(GUIDE_PATH, { staleTime: Infinity });
  const open = guides.data?.find(({ key }) => key === shown);
  const { here, others } = guidesBeside(guides.data ?? [], page);
  return (
    <aside aria-label="Guide" className="flex min-h-0 flex-col border-l border-line bg-surface">
      <div className="flex h-12 shrink-0 items-center gap-2 border-b border-line px-4">
        {open && (
          <Button look="quiet" aria-label="All guides" onClick={() => onShow("")} className="-ml-3">
            <ArrowLeft aria-hidden className="size-4" />
          </Button>
        )}
        <h2 className="flex-1 font-display text-lg font-semibold">Guide</h2>
        <Button look="quiet" aria-label="Close the guide" onClick={onClose} className="-mr-3">
          <X aria-hidden className="size-4" />
        </Button>
      </div>
      <div
        tabIndex={0}
        role="group"
        aria-label="What the guide says"
        className="min-h-0 flex-1 overflow-y-auto p-4 text-sm"
      >
        {guides.error && <ErrorNote error={guides.error.failure} />}
        {!guides.data && !guides.error && <Loading what="the guide" />}
        {open ? (
          <Steps guide={open} />
        ) : (
          guides.data && (
            <>
              {here.length > 0 && <Jobs title="For this page" guides={here} onShow={onShow} />}
              <Jobs title={here.length > 0 ? "Other jobs" : "Jobs from start to end"} guides={others} onShow={onShow} />
              <h3 className="mt-5 mb-2 font-semibold">Keys</h3>
              <Keys />
            </>
          )
        )}
      </div>
    </aside>
  );
}

function Jobs({ title, guides, onShow }: { title: string; guides: Guide[]; onShow: (key: string) => void }) {
  return (
    <>
      <h3 className="mt-4 mb-1 font-semibold first:mt-0">{title}</h3>
      <ul className="space-y-0.5">
        {guides.map(({ key, title: name }) => (
          <li key={key}>
            <button type="button" className="text-left text-petrol hover:underline" onClick={() => onShow(key)}>
              {name}
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}

function Steps({ guide }: { guide: Guide }) {
  const { slug } = useWorkspace();
  return (
    <>
      <h3 className="leading-snug font-semibold">{guide.title}</h3>
      <p className="mt-1 mb-3 text-soft">{guide.when}</p>
      <Markdown
        components={{
          ol: ({ children }) => <ol className="list-decimal space-y-3 pl-5">{children}</ol>,
          a: ({ href, children }) => (
            <Link className="mt-0.5 block text-petrol hover:underline" href={`/w/${slug}/${href ?? ""}`}>
              {children}
            </Link>
          ),
        }}
      >
        {guide.text}
      </Markdown>
    </>
  );
}
