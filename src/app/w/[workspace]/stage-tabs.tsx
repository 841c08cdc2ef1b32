"use client";

import Link from "next/link";
import { usePathname, useSearchParams } from "next/navigation";
import type { ReactNode } from "react";
import { cx } from "@/ui/cx";
import { useWorkspace } from "../../_lib/workspace";

/** The parts of a stage as tabs; the window of days goes along. */
export function StageTabs({
  label,
  stage,
  tabs,
  carry = ["days"],
}: {
  label: string;
  /** Its path; "" for Today, which stands above the stages. */
  stage: string;
  /** Paths below the stage, "" for its first part, with what stands behind their names. */
  tabs: { path: string; label: string; mark?: ReactNode }[];
  /** What goes along from the address. */
  carry?: readonly string[];
}) {
  const { slug } = useWorkspace();
  const pathname = usePathname();
  const search = useSearchParams();
  const along = new URLSearchParams(carry.flatMap((name) => (search.get(name) ? [[name, search.get(name)!]] : [])));
  const base = stage === "" ? `/w/${slug}` : `/w/${slug}/${stage}`;
  return (
    <nav aria-label={label} className="flex gap-1 border-b border-line">
      {tabs.map(({ path, label: name, mark }) => {
        const isHere = path === "" ? pathname === base : pathname.startsWith(base + path);
        return (
          <Link
            key={path}
            href={`${base}${path}${along.size > 0 ? `?${along}` : ""}`}
            aria-current={isHere ? "page" : undefined}
            className={cx(
              "-mb-px border-b-2 px-3 py-1.5 text-sm",
              isHere ? "border-petrol font-semibold" : "border-transparent text-soft hover:text-ink",
            )}
          >
            {name}
            {mark}
          </Link>
        );
      })}
    </nav>
  );
}
