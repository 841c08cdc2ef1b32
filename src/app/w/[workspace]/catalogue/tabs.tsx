"use client";

import Link from "next/link";
import { usePathname, useSearchParams } from "next/navigation";
import { formatCount } from "@/core/kit/format";
import { cx } from "@/ui/cx";
import type { FeedsAnswer } from "./use-feeds";
import { useWorkspace } from "../../../_lib/workspace";

const TABS = [
  { path: "", label: "Items" },
  { path: "/feed", label: "Feed" },
  { path: "/fields", label: "Fields" },
  { path: "/categories", label: "Categories" },
  { path: "/faults", label: "Faults" },
] as const;

/** The parts of the catalogue stage; how many faults wait stands beside theirs. */
export function CatalogueTabs({ feeds }: { feeds: FeedsAnswer | undefined }) {
  const { slug } = useWorkspace();
  const pathname = usePathname();
  const days = useSearchParams().get("days");
  const base = `/w/${slug}/catalogue`;
  const faults = feeds?.diagnostics.filter(({ severity }) => severity !== "note").length ?? 0;
  return (
    <nav aria-label="Parts of the catalogue" className="flex gap-1 border-b border-line">
      {TABS.map(({ path, label }) => {
        const isHere = path === "" ? pathname === base : pathname.startsWith(base + path);
        return (
          <Link
            key={path}
            href={`${base}${path}${days ? `?days=${days}` : ""}`}
            aria-current={isHere ? "page" : undefined}
            className={cx(
              "-mb-px border-b-2 px-3 py-1.5 text-sm",
              isHere ? "border-petrol font-semibold" : "border-transparent text-soft hover:text-ink",
            )}
          >
            {label}
            {path === "/faults" && faults > 0 && (
              <span className="ml-1.5 text-xs text-soft num">{formatCount(faults)}</span>
            )}
            {path === "/feed" && feeds?.feeds[0]?.trouble && <span className="ml-1.5 font-bold text-ember">!</span>}
          </Link>
        );
      })}
    </nav>
  );
}
