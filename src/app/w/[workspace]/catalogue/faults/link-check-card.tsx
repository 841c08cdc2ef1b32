"use client";

import { formatDistanceToNowStrict } from "date-fns";
import { useState } from "react";
import { toast } from "sonner";
import { formatCount } from "@/core/kit/format";
import { Button } from "@/ui/button";
import { TextInput } from "@/ui/field";
import { Surface } from "@/ui/page";
import { apiSend, toastError } from "../../../../_lib/api";
import { useApiPath, useRefresh } from "../../../../_lib/workspace";

/** Looks at landing pages in bulk: two at a time with a pause between, those with the most spend first. */
export function LinkCheckCard({ links }: { links: { checked: number; at: number | null } }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [most, setMost] = useState("200");
  const count = Number(most);
  const isCount = Number.isInteger(count) && count >= 1 && count <= 100_000;
  const start = async () => {
    await apiSend(apiPath("link-checks"), { most: count });
    toast.info("Looking at landing pages; progress is on top. What is found stands among the faults.");
    await refresh();
  };
  return (
    <Surface title="Landing pages">
      <form
        className="flex flex-wrap items-center gap-2 text-sm"
        onSubmit={(event) => {
          event.preventDefault();
          void start().catch(toastError);
        }}
      >
        <span>Look at the pages of the</span>
        <TextInput
          aria-label="How many pages"
          className="w-20!"
          inputMode="numeric"
          value={most}
          onChange={(event) => setMost(event.target.value)}
          aria-invalid={!isCount}
        />
        <span>items with the most spend: is the page there, with the same item, price and availability?</span>
        <Button type="submit" disabled={!isCount}>
          Look at them
        </Button>
        <span className="text-soft num" suppressHydrationWarning>
          {links.at === null
            ? "None looked at yet."
            : `${formatCount(links.checked)} looked at, last ${formatDistanceToNowStrict(links.at, { addSuffix: true })}.`}
        </span>
      </form>
    </Surface>
  );
}
