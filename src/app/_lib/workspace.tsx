"use client";

import { useQueryClient } from "@tanstack/react-query";
import { parseAsInteger, useQueryState } from "nuqs";
import { createContext, useCallback, useContext, type ReactNode } from "react";
import type { WorkspaceInfo } from "@/server/workspaces";

const WorkspaceContext = createContext<WorkspaceInfo | null>(null);

export function WorkspaceProvider({ value, children }: { value: WorkspaceInfo; children: ReactNode }) {
  return <WorkspaceContext value={value}>{children}</WorkspaceContext>;
}

/** The workspace of the page. */
export function useWorkspace(): WorkspaceInfo {
  const found = useContext(WorkspaceContext);
  if (!found) throw new Error("no workspace around this component");
  return found;
}

export const WINDOW_CHOICES = [7, 14, 30, 60, 90, 120] as const;
export const DEFAULT_DAYS = 30;

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
