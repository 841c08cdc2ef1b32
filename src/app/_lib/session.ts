"use client";

import { useApi } from "./api";

/** Who sits there, and what they may do. */
export interface Session {
  /** Whether people sign in here at all. */
  isOn: boolean;
  /** Whether they may do so at an identity provider. */
  isElsewhereOn: boolean;
  /** Whether nobody can yet. */
  isFirst: boolean;
  who: string | null;
  email: string | null;
  hasCodes: boolean;
  isFounder: boolean;
  role: "viewer" | "editor" | "sender" | "owner" | null;
}

/** Who sits there; within a workspace, with their role in it. */
export function useSession(workspace?: string) {
  return useApi<Session>(workspace ? `session?workspace=${workspace}` : "session", { staleTime: 60_000 });
}
