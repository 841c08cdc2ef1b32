"use client";

import Link from "next/link";
import type { ReactNode } from "react";
import { cx } from "@/ui/cx";
import { useWorkspace } from "../../../_lib/workspace";
import { PARTS, type CopyPart } from "./words";

/** The parts of a copy plan, and the ads that there are, beside each other. */
export function PartsBar({
  here,
  plan,
  marks = {},
  children,
}: {
  here: CopyPart | "running";
  /** The plan to go to; left out: the first. */
  plan?: string | undefined;
  /** What stands behind a name. */
  marks?: Partial<Record<CopyPart, ReactNode>>;
  children?: ReactNode;
}) {
  const { slug } = useWorkspace();
  const base = `/w/${slug}/copy`;
  const of = (part: CopyPart) => {
    const search = new URLSearchParams({ ...(plan && { plan }), ...(part !== "ads" && { part }) });
    return search.size > 0 ? `${base}?${search}` : base;
  };
  const tab = (isHere: boolean) =>
    cx(
      "-mb-px border-b-2 px-3 py-1.5 text-sm",
      isHere ? "border-petrol font-semibold" : "border-transparent text-soft hover:text-ink",
    );
  return (
    <div className="flex items-end gap-1 border-b border-line">
      <nav aria-label="Parts of the copy stage" className="flex gap-1">
        {(Object.keys(PARTS) as CopyPart[]).map((part) => (
          <Link
            key={part}
            href={of(part)}
            aria-current={here === part ? "page" : undefined}
            className={tab(here === part)}
          >
            {PARTS[part]}
            {marks[part]}
          </Link>
        ))}
        <Link
          href={`${base}/running`}
          aria-current={here === "running" ? "page" : undefined}
          className={tab(here === "running")}
        >
          Running ads
        </Link>
      </nav>
      <div className="ml-auto flex items-center gap-2 pb-1">{children}</div>
    </div>
  );
}
