"use client";

import { useQueryClient } from "@tanstack/react-query";
import { CloudOff } from "lucide-react";
import { useEffect, useState } from "react";

/** How often a page looks whether the server answers, ms, and how long it waits for that. */
const LOOK_EVERY = 2000;
const MOST_SILENCE = 2500;

async function isThere(): Promise<boolean> {
  try {
    return (await fetch("/alive", { cache: "no-store", signal: AbortSignal.timeout(MOST_SILENCE) })).ok;
  } catch {
    return false;
  }
}

/** Says when the server does not answer, and reads everything anew once it does again. A page that nobody looks at asks nothing. */
export function ServerWatch() {
  const client = useQueryClient();
  const [isAway, setAway] = useState(false);
  useEffect(() => {
    let isWatching = true;
    let waiting: ReturnType<typeof setTimeout>;
    let wasAway = false;
    const look = async () => {
      const isUp = document.hidden || (await isThere());
      if (!isWatching) return;
      if (isUp && wasAway && !document.hidden) void client.invalidateQueries();
      if (!document.hidden) {
        wasAway = !isUp;
        setAway(!isUp);
      }
      waiting = setTimeout(() => void look(), LOOK_EVERY);
    };
    const lookNow = () => {
      clearTimeout(waiting);
      void look();
    };
    waiting = setTimeout(() => void look(), LOOK_EVERY);
    document.addEventListener("visibilitychange", lookNow);
    return () => {
      isWatching = false;
      clearTimeout(waiting);
      document.removeEventListener("visibilitychange", lookNow);
    };
  }, [client]);
  if (!isAway) return null;
  return (
    <div
      role="alert"
      className="fixed bottom-14 left-1/2 z-[100] flex w-max max-w-[90vw] -translate-x-1/2 items-center gap-2 rounded-lg bg-ink px-4 py-2 text-sm text-surface shadow-lg"
    >
      <CloudOff aria-hidden className="size-4" />
      The server is not answering. What stands here stays; this page goes on by itself once it answers.
    </div>
  );
}
