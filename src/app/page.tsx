import { headers } from "next/headers";
import { redirect } from "next/navigation";
import { askerOf } from "@/server/sign-in/asker";
import { lookAtWorkspaces } from "@/server/workspaces";
import { askOwn } from "@/server/counter/for-pages";
import type { Asks } from "@/server/across/asks";
import type { TillStrip } from "@/server/across/results/till";
import { MOST_WAIT } from "./_lib/first-answers";
import { FirstRun } from "./first-run";
import type { Standing } from "./workspace-list";

export const dynamic = "force-dynamic";

/** Workspaces whose figures are shown. */
const MOST_FIGURES = 40;

/** How workspaces stand, by short name; those that take too long are left out. */
async function standings(slugs: string[], known: Headers): Promise<Record<string, Standing>> {
  const late = AbortSignal.timeout(MOST_WAIT);
  const found = await Promise.all(
    slugs.slice(0, MOST_FIGURES).map(async (slug) => {
      const [till, asks] = await Promise.all(
        ["till?days=30", "asks"].map((path) => askOwn(`${slug}/${path}`, known, late)),
      );
      return till && asks ? [[slug, { till: till.body as TillStrip, asks: asks.body as Asks }] as const] : [];
    }),
  );
  return Object.fromEntries(found.flat());
}

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
  const standing = await standings(
    workspaces.map(({ slug }) => slug),
    await headers(),
  );
  return <FirstRun workspaces={workspaces} standing={standing} broken={broken} mayMake={asker.isFounder} />;
}
