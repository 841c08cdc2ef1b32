"use client";

import { useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, type ReactNode } from "react";
import type { OwnAnswer } from "@/server/counter/for-pages";
import { noteVersion } from "./seen";

/** An answer of the API that came with a page. */
export interface GivenAnswer extends OwnAnswer {
  path: string;
  /** When it was read, ms. */
  at: number;
}

const keyOf = ({ path }: GivenAnswer) => ["api", path];

function take(client: QueryClient, answer: GivenAnswer): void {
  if (answer.version !== null) noteVersion(answer.body, answer.version);
  client.setQueryData(keyOf(answer), answer.body, { updatedAt: answer.at });
}

/**
 * Hands answers that came with a page to the cache, before what stands in it is drawn. What a view shows just now is left
 * until the page has come in its place, since that may still be given up.
 */
export function GivenAnswers({ answers, children }: { answers: GivenAnswer[]; children: ReactNode }) {
  const client = useQueryClient();
  const shown = useMemo(
    () =>
      answers.filter((answer) => {
        const known = client.getQueryCache().find({ queryKey: keyOf(answer) });
        if (known && known.state.dataUpdatedAt >= answer.at) return false;
        if (known && known.getObserversCount() > 0) return true;
        take(client, answer);
        return false;
      }),
    [client, answers],
  );
  useEffect(() => {
    for (const answer of shown) {
      const known = client.getQueryState(keyOf(answer));
      if (!known || known.dataUpdatedAt < answer.at) take(client, answer);
    }
  }, [client, shown]);
  return children;
}
