"use client";

import { useQueryClient } from "@tanstack/react-query";
import { parseAsInteger, useQueryState } from "nuqs";
import { createContext, useCallback, useContext, useEffect, useState, type ReactNode } from "react";
import type { WorkspaceInfo } from "@/server/workspaces";
import { DEFAULT_DAYS } from "./view-defaults";

const WorkspaceContext = createContext<WorkspaceInfo | null>(null);

export function WorkspaceProvider({ value, children }: { value: WorkspaceInfo; children: ReactNode }) {
  const own = useState<string | null>(null);
  return (
    <WorkspaceContext value={value}>
      <OwnWindowContext value={own}>{children}</OwnWindowContext>
    </WorkspaceContext>
  );
}

const OwnWindowContext = createContext<[string | null, (text: string | null) => void]>([null, () => {}]);

/** The days of a page's own that it says in place of the window on top; null where it follows that one. */
export function useShownWindow(): string | null {
  return useContext(OwnWindowContext)[0];
}

/** Says that a page looks at other days than the window on top: in the same place, for as long as the page is open. */
export function useOwnWindow(text: string | null): void {
  const [, show] = useContext(OwnWindowContext);
  useEffect(() => {
    show(text);
    return () => show(null);
  }, [show, text]);
}

/** The workspace of the page. */
export function useWorkspace(): WorkspaceInfo {
  const found = useContext(WorkspaceContext);
  if (!found) throw new Error("no workspace around this component");
  return found;
}

/** The window of days that every screen looks at; kept in the URL. */
export function useDays() {
  return useQueryState("days", parseAsInteger.withDefault(DEFAULT_DAYS));
}

/** The API path of something in this workspace. */
export function useApiPath(): (path: string) => string {
  const { slug } = useWorkspace();
  return useCallback((path: string) => `${slug}/${path}`, [slug]);
}

/** Makes every screen read anew what may have changed. */
export function useRefresh(): () => Promise<void> {
  const client = useQueryClient();
  return useCallback(() => client.invalidateQueries({ queryKey: ["api"] }), [client]);
}
