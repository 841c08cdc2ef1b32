"use client";

import type { Diagnostic } from "@/server/across/catalogue/diagnose";
import type { FieldInfo } from "@/server/catalogue/field-list";
import type { FeedInfo } from "@/server/catalogue/feeds";
import { useApi } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";

export interface FeedsAnswer {
  feeds: FeedInfo[];
  diagnostics: Diagnostic[];
  /** The watched folder. */
  inbox: string;
  proposedFamilies: boolean;
  /** Items that a costs file covers. */
  costs: number;
  links: { checked: number; at: number | null };
}

/** The workspace's feed and what is wrong with it. */
export function useFeeds() {
  return useApi<FeedsAnswer>(useApiPath()("feeds"));
}

const NONE: FieldInfo[] = [];

/** Every field that rules, filters and splits can use. */
export function useFields(): FieldInfo[] {
  return useApi<FieldInfo[]>(useApiPath()("fields"), { staleTime: 60_000 }).data ?? NONE;
}
