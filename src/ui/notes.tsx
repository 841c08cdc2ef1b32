import { CircleAlert, LoaderCircle } from "lucide-react";
import type { ReactNode } from "react";
import type { Failure } from "@/core/kit/outcome";

/** What a view shows while there is nothing in it: what will be here, and how to get it. */
export function EmptyNote({ title, children, action }: { title: string; children?: ReactNode; action?: ReactNode }) {
  return (
    <div className="mx-auto my-10 max-w-md text-center">
      <h2 className="font-display text-lg font-semibold">{title}</h2>
      <div className="mt-1 text-soft">{children}</div>
      {action && <div className="mt-4 flex justify-center gap-2">{action}</div>}
    </div>
  );
}

/** What went wrong, what was kept, what to do. */
export function ErrorNote({ error }: { error: Failure }) {
  return (
    <div role="alert" className="my-3 flex gap-2.5 rounded-md border border-ember/50 bg-surface p-3">
      <CircleAlert aria-hidden className="mt-0.5 size-4 shrink-0 text-ember" />
      <div>
        <p className="font-semibold">{error.message}</p>
        {error.hint && <p className="text-soft">{error.hint}</p>}
      </div>
    </div>
  );
}

/** A request under way. */
export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="flex items-center gap-2 py-6 text-soft">
      <LoaderCircle aria-hidden className="size-4 animate-spin" /> Loading {what} …
    </p>
  );
}
