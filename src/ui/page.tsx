import type { ReactNode } from "react";

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
