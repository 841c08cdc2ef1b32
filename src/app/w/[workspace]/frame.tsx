"use client";

import { CircleHelp, Moon, Search, Sun } from "lucide-react";
import Link from "next/link";
import { usePathname } from "next/navigation";
import { useTheme } from "next-themes";
import { useState, type ReactNode } from "react";
import { formatCount } from "@/core/kit/format";
import { cx } from "@/ui/cx";
import { Select } from "@/ui/field";
import { Logo } from "@/ui/logo";
import { useKeys } from "@/ui/use-keys";
import { useApi } from "../../_lib/api";
import { DEFAULT_DAYS, WINDOW_CHOICES } from "../../_lib/view-defaults";
import { useApiPath, useDays, useShownWindow, useWorkspace } from "../../_lib/workspace";
import type { TillStrip as Till } from "@/server/across/results/till";
import { useUndoKey } from "../../_lib/undo";
import { CommandPalette } from "./command-palette";
import { JobDock } from "./job-dock";
import { GuidePanel } from "./guide-panel";
import { PersonMenu } from "./person-menu";
import { STAGES } from "./stages";
import { TillStrip } from "./till-strip";

/** Pages below Today. */
const TODAY = ["", "/weeks", "/alerts"];

/** What stands around every screen: stages left, window and search on top, the till strip below. */
export function Frame({ children }: { children: ReactNode }) {
  const { slug, name } = useWorkspace();
  const pathname = usePathname();
  const [days, setDays] = useDays();
  const ownWindow = useShownWindow();
  const [palette, setPalette] = useState(false);
  const [guide, setGuide] = useState<string | null>(null);
  const apiPath = useApiPath();
  const till = useApi<Till>(apiPath(`till?days=${days}`), { refetchInterval: 20_000 });
  const suffix = days === DEFAULT_DAYS ? "" : `?days=${days}`;
  useKeys({ "?": () => setGuide((shown) => (shown === null ? "" : null)) });
  useUndoKey();
  const waiting: Record<string, number | undefined> = {
    planogram: till.data?.withoutHome || undefined,
    dispatch: till.data?.basket || undefined,
  };
  const isAt = (path: string) =>
    path === ""
      ? TODAY.some((part) => pathname === `/w/${slug}${part}`)
      : `${pathname}/`.startsWith(`/w/${slug}/${path}/`);
  const link = (path: string, label: string) => (
    <Link
      key={path}
      href={`/w/${slug}${path ? `/${path}` : ""}${suffix}`}
      aria-current={isAt(path) ? "page" : undefined}
      className={cx(
        "flex items-center justify-between rounded-md border-l-[3px] px-3 py-1.5",
        isAt(path) ? "border-ember bg-surface font-semibold" : "border-transparent hover:bg-raised",
      )}
    >
      {label}
      {waiting[path] !== undefined && (
        <span className="text-xs font-normal text-soft num">{formatCount(waiting[path] ?? 0)}</span>
      )}
    </Link>
  );

  return (
    <div
      className={cx(
        "grid h-dvh grid-rows-[minmax(0,1fr)_auto]",
        guide === null ? "grid-cols-[172px_minmax(0,1fr)]" : "grid-cols-[172px_minmax(0,1fr)_300px]",
      )}
    >
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-surface focus:p-2">
        Skip to the content
      </a>
      <nav aria-label="Stages" className="overflow-y-auto border-r border-line px-2 py-3">
        <Link
          href="/?all=1"
          className="mb-3 flex items-center gap-2 px-2 font-display text-lg font-semibold"
          title="All workspaces"
        >
          <Logo /> Hot Shelf
        </Link>
        {link("", "Today")}
        {STAGES.map(({ group, stages }) => (
          <div key={group} className="mt-3">
            <p className="px-3 pb-1 text-xs text-soft">{group}</p>
            {stages.map(({ path, label }) => link(path, label))}
          </div>
        ))}
      </nav>
      <div className="flex min-h-0 flex-col">
        <header className="flex h-12 shrink-0 items-center gap-3 border-b border-line px-5">
          <span className="max-w-64 truncate font-semibold">{name}</span>
          {ownWindow !== null ? (
            <span
              className="flex h-8 items-center rounded-md bg-raised px-2 text-sm"
              title="This page looks at days of its own; the window stays for the other pages."
            >
              {ownWindow}
            </span>
          ) : (
            <Select
              aria-label="Window of days"
              className="w-52!"
              value={days}
              onChange={(event) => void setDays(Number(event.target.value))}
            >
              {WINDOW_CHOICES.map((choice) => (
                <option key={choice} value={choice}>
                  Last {choice} days
                </option>
              ))}
            </Select>
          )}
          <JobDock />
          <button
            type="button"
            onClick={() => setPalette(true)}
            className="ml-auto flex h-8 w-64 items-center gap-2 rounded-md border border-line bg-surface px-2.5 text-sm text-soft hover:bg-raised"
          >
            <Search aria-hidden className="size-3.5" />
            <span className="flex-1 text-left">Search and commands</span>
            <kbd className="rounded border border-line px-1 text-[11px]">Ctrl K</kbd>
          </button>
          <button
            type="button"
            aria-label="Guide"
            aria-pressed={guide !== null}
            title="Guide: jobs from start to end, and the keys (?)"
            onClick={() => setGuide(guide === null ? "" : null)}
            className="rounded-md border border-line bg-surface p-1.5 text-soft hover:bg-raised"
          >
            <CircleHelp aria-hidden className="size-4" />
          </button>
          <PersonMenu />
          <ThemeSwitch />
        </header>
        <main id="main" tabIndex={-1} className="flex min-h-0 flex-1 flex-col overflow-y-auto px-5 py-4 outline-none">
          {children}
        </main>
      </div>
      {guide !== null && <GuidePanel shown={guide} onShow={setGuide} onClose={() => setGuide(null)} />}
      <TillStrip till={till.data} />
      <CommandPalette open={palette} onOpenChange={setPalette} onGuide={setGuide} />
    </div>
  );
}

function ThemeSwitch() {
  const { resolvedTheme, setTheme } = useTheme();
  return (
    <button
      type="button"
      aria-label="Switch between light and dark"
      title="Switch between light and dark"
      onClick={() => setTheme(resolvedTheme === "dark" ? "light" : "dark")}
      className="rounded-md border border-line bg-surface p-1.5 text-soft hover:bg-raised"
    >
      <Sun aria-hidden className="size-4 dark:hidden" />
      <Moon aria-hidden className="hidden size-4 dark:block" />
    </button>
  );
}
