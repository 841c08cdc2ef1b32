import { headers } from "next/headers";
import { redirect } from "next/navigation";
import { askerOf } from "@/server/sign-in/asker";
import { lookAtWorkspaces } from "@/server/workspaces";
import { FirstRun } from "./first-run";

export const dynamic = "force-dynamic";

/** The door: one workspace opens at once, several are listed, none begins the first run. */
export default async function Door({ searchParams }: { searchParams: Promise<{ all?: string }> }) {
  const asker = await askerOf(await headers());
  if (!asker) redirect("/sign-in");
  const all = await lookAtWorkspaces();
  const roles = await Promise.all([...all.sound, ...all.broken].map(({ slug }) => asker.roleIn(slug)));
  const workspaces = all.sound.filter((_, i) => roles[i]);
  const broken = all.broken.filter((_, i) => roles[all.sound.length + i]);
  const { all: list } = await searchParams;
  if (workspaces.length === 1 && broken.length === 0 && list === undefined) redirect(`/w/${workspaces[0]!.slug}`);
  return <FirstRun workspaces={workspaces} broken={broken} mayMake={asker.isFounder} />;
}
