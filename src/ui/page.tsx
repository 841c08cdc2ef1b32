import type { ReactNode } from "react";
import type { Failure } from "@/core/kit/outcome";
import { ErrorNote } from "./notes";

/** A page's head: its title, a line of facts, and what to do next on the right. */
export function PageHead({ title, facts, children }: { title: string; facts?: ReactNode; children?: ReactNode }) {
  return (
    <header className="flex min-h-9 flex-wrap items-center gap-x-4 gap-y-2">
      <h1 className="font-display text-[26px] leading-tight font-semibold tracking-tight">{title}</h1>
      <p className="min-w-0 flex-1 text-sm text-soft num">{facts}</p>
      <div className="flex flex-wrap items-center gap-2">{children}</div>
    </header>
  );
}

/** A white working surface with an optional heading. */
export function Surface({ title, children, aside }: { title?: string; children: ReactNode; aside?: ReactNode }) {
  return (
    <section className="rounded-lg border border-line bg-surface">
      {title && (
        <div className="flex items-center justify-between gap-3 border-b border-line px-4 py-2">
          <h2 className="font-semibold">{title}</h2>
          {aside}
        </div>
      )}
      <div className="p-4">{children}</div>
    </section>
  );
}

/** Rows that are drawn in place of those that are on their way. */
const WAITING_ROWS = 12;

/** A page without its figures: the place where they will stand, or what went wrong, below its head and tabs. */
export function PageWaiting({
  title,
  what,
  error,
  children,
}: {
  title: string;
  what: string;
  /** What went wrong; null while they are on their way. */
  error: { failure: Failure } | null;
  children?: ReactNode;
}) {
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <PageHead title={title} facts={error ? null : <span role="status">Loading {what} …</span>} />
      {children}
      {error ? <ErrorNote error={error.failure} /> : <WaitingRows />}
    </div>
  );
}

/** Where rows will stand. */
export function WaitingRows() {
  return (
    <div aria-hidden className="min-h-0 flex-1 overflow-hidden rounded-lg border border-line bg-surface">
      {Array.from({ length: WAITING_ROWS }, (_, i) => (
        <div key={i} className="flex h-11 items-center border-b border-line/70 px-4">
          <span className="h-2.5 w-1/3 rounded bg-raised" />
        </div>
      ))}
    </div>
  );
}
