import { headers } from "next/headers";
import type { ReactNode } from "react";
import { askOwn } from "@/server/counter/for-pages";
import { GivenAnswers, type GivenAnswer } from "./given-answers";

/** What a view asks the API first, by its address: paths within the workspace, as the view itself asks for them. */
export type Asks = (search: URLSearchParams) => string[];

/** What Next hands a page. */
export interface PageProps {
  params: Promise<{ workspace: string }>;
  searchParams: Promise<Record<string, string | string[] | undefined>>;
}

/** The longest that a page waits for answers, ms. What takes longer it asks for itself, and shows where it will stand. */
export const MOST_WAIT = 600;

async function ask(path: string, known: Headers, late: AbortSignal): Promise<GivenAnswer[]> {
  const at = Date.now();
  const answer = await askOwn(path, known, late);
  return answer ? [{ path, at, ...answer }] : [];
}

/** Draws a view with the API's answers to what it asks first, read while the page is made. @param paths below `/api/v1/` */
export async function FirstAnswers({ paths, children }: { paths: string[]; children: ReactNode }) {
  const known = await headers();
  const late = AbortSignal.timeout(MOST_WAIT);
  const found = await Promise.all(paths.map((path) => ask(path, known, late)));
  return <GivenAnswers answers={found.flat()}>{children}</GivenAnswers>;
}

/** A page that comes with the answers to what its view asks first. */
export function pageWith(View: () => ReactNode, asks: Asks) {
  return async function Page({ params, searchParams }: PageProps) {
    const search = new URLSearchParams();
    for (const [name, value] of Object.entries(await searchParams)) {
      if (value !== undefined) search.set(name, Array.isArray(value) ? value[0]! : value);
    }
    const { workspace } = await params;
    return (
      <FirstAnswers paths={asks(search).map((path) => `${workspace}/${path}`)}>
        <View />
      </FirstAnswers>
    );
  };
}
