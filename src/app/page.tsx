import { redirect } from "next/navigation";
import { lookAtWorkspaces } from "@/server/workspaces";
import { FirstRun } from "./first-run";

export const dynamic = "force-dynamic";

/** The door: one workspace opens at once, several are listed, none begins the first run. */
export default async function Door({ searchParams }: { searchParams: Promise<{ all?: string }> }) {
  const { sound: workspaces, broken } = await lookAtWorkspaces();
  const { all } = await searchParams;
  if (workspaces.length === 1 && broken.length === 0 && all === undefined) redirect(`/w/${workspaces[0]!.slug}`);
  return <FirstRun workspaces={workspaces} broken={broken} />;
}
