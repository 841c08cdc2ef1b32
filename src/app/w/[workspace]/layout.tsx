import type { Metadata } from "next";
import Link from "next/link";
import { headers } from "next/headers";
import { notFound, redirect } from "next/navigation";
import type { ReactNode } from "react";
import { FailureError } from "@/core/kit/outcome";
import { askerOf } from "@/server/sign-in/asker";
import { SEARCH_HEADER } from "@/server/web/search-header";
import { findWorkspace } from "@/server/workspaces";
import { ErrorNote } from "@/ui/notes";
import { FirstAnswers } from "../../_lib/first-answers";
import { daysOf } from "../../_lib/view-defaults";
import { WorkspaceProvider } from "../../_lib/workspace";
import { Frame } from "./frame";

export const dynamic = "force-dynamic";

type Props = { children: ReactNode; params: Promise<{ workspace: string }> };

/** The workspace, or what keeps it from being opened. Whoever has no role in it is told that there is none. */
async function open({ params }: Pick<Props, "params">) {
  const { workspace } = await params;
  const asker = await askerOf(await headers());
  if (!asker) redirect(`/sign-in?to=${encodeURIComponent(`/w/${workspace}`)}`);
  if ((await asker.roleIn(workspace)) === null) return { found: null, failure: null };
  try {
    return { found: await findWorkspace(workspace), failure: null };
  } catch (error) {
    if (error instanceof FailureError) return { found: null, failure: error.failure };
    throw error;
  }
}

export async function generateMetadata(props: Props): Promise<Metadata> {
  const { found } = await open(props);
  return found ? { title: found.info.name } : {};
}

export default async function WorkspaceLayout({ children, params }: Props) {
  const { found, failure } = await open({ params });
  if (failure) {
    return (
      <main className="mx-auto max-w-2xl px-6 py-16">
        <ErrorNote error={failure} />
        <Link className="mt-4 inline-block text-petrol hover:underline" href="/?all=1">
          All workspaces
        </Link>
      </main>
    );
  }
  if (!found) notFound();
  const { slug } = found.info;
  const search = new URLSearchParams((await headers()).get(SEARCH_HEADER) ?? "");
  const paths = [
    ...[`${slug}/till?days=${daysOf(search)}`, `session?workspace=${slug}`],
    // As of the moment that the figures are of: work that was under way then is seen to end, and brings them anew.
    `${slug}/jobs`,
  ];
  return (
    <WorkspaceProvider value={found.info}>
      <FirstAnswers paths={paths}>
        <Frame>{children}</Frame>
      </FirstAnswers>
    </WorkspaceProvider>
  );
}
