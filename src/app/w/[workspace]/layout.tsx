import type { Metadata } from "next";
import { notFound } from "next/navigation";
import { Suspense, type ReactNode } from "react";
import { findWorkspace } from "@/server/workspaces";
import { WorkspaceProvider } from "../../_lib/workspace";
import { Frame } from "./frame";

export const dynamic = "force-dynamic";

type Props = { children: ReactNode; params: Promise<{ workspace: string }> };

export async function generateMetadata({ params }: Props): Promise<Metadata> {
  const found = await findWorkspace((await params).workspace);
  return found ? { title: found.info.name } : {};
}

export default async function WorkspaceLayout({ children, params }: Props) {
  const found = await findWorkspace((await params).workspace);
  if (!found) notFound();
  return (
    <WorkspaceProvider value={found.info}>
      <Suspense>
        <Frame>{children}</Frame>
      </Suspense>
    </WorkspaceProvider>
  );
}
