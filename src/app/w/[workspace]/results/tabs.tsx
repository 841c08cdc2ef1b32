"use client";

import Link from "next/link";
import { usePathname, useSearchParams } from "next/navigation";
import { cx } from "@/ui/cx";
import { useWorkspace } from "../../../_lib/workspace";

const TABS = [
  { path: "", label: "Results" },
  { path: "/reports", label: "Report files" },
  { path: "/market", label: "Test market" },
] as const;

/** The parts of the results stage. */
export function ResultsTabs() {
  const { slug } = useWorkspace();
  const pathname = usePathname();
  const days = useSearchParams().get("days");
  const base = `/w/${slug}/results`;
  return (
    <nav aria-label="Parts of the results" className="flex gap-1 border-b border-line">
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
          </Link>
        );
      })}
    </nav>
  );
}
