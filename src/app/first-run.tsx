"use client";

import { zodResolver } from "@hookform/resolvers/zod";
import { useRouter } from "next/navigation";
import { useState, useSyncExternalStore } from "react";
import { useForm } from "react-hook-form";
import { z } from "zod";
import type { Failure } from "@/core/kit/outcome";
import type { WorkspaceInfo } from "@/server/workspaces";
import { Button } from "@/ui/button";
import { Field, Select, TextInput } from "@/ui/field";
import { Logo } from "@/ui/logo";
import { ErrorNote } from "@/ui/notes";
import { ApiError, apiSend } from "./_lib/api";
import { LookAtFile } from "./look-at-file";
import { slugOf } from "./slug-of";
import { WorkspaceList, type Standing } from "./workspace-list";

const formSchema = z.object({
  name: z.string().trim().min(1, "Give the shop's name.").max(80),
  currency: z.string(),
  timeZone: z.string(),
  goal: z.number({ error: "A number such as 3.5." }).positive("Above zero.").max(1000),
});

type Form = z.infer<typeof formSchema>;

const neverChanges = () => () => {};

/** Where a person begins: their workspaces and how they stand; or one for their shop, then straight to its feed. */
export function FirstRun({
  workspaces,
  standing,
  broken,
  mayMake,
}: {
  workspaces: WorkspaceInfo[];
  /** How they stand, by short name. */
  standing: Record<string, Standing>;
  /** Workspaces that can't be opened, with what to do. */
  broken: (Failure & { slug: string })[];
  /** Whether whoever looks may make new ones. */
  mayMake: boolean;
}) {
  const isBrowser = useSyncExternalStore(
    neverChanges,
    () => true,
    () => false,
  );
  return (
    <main className="mx-auto max-w-6xl px-6 py-12">
      <div className="flex items-center gap-2 font-display text-xl font-semibold">
        <Logo /> Hot Shelf
      </div>
      {broken.map((failure) => (
        <div key={failure.slug} className="mt-4">
          <ErrorNote error={failure} />
        </div>
      ))}
      <div className="mt-10 grid gap-10 md:grid-cols-[1fr_380px]">
        <div>{workspaces.length > 0 ? <WorkspaceList workspaces={workspaces} standing={standing} /> : <Round />}</div>
        {isBrowser && mayMake && (
          <div className="space-y-6">
            <NewWorkspaceForm />
            <LookAtFile />
          </div>
        )}
        {!mayMake && workspaces.length === 0 && (
          <p className="h-fit rounded-lg border border-line bg-surface p-5">
            You have no role in any workspace yet. Ask an owner of one to invite you.
          </p>
        )}
      </div>
    </main>
  );
}

/** What Hot Shelf is for, where nobody has a workspace yet. */
function Round() {
  return (
    <>
      <h1 className="font-display text-4xl leading-tight font-semibold tracking-tight">
        Put your catalogue on shelves, and your money where it sells.
      </h1>
      <ol className="mt-6 space-y-3">
        {[
          ["Catalogue", "Upload your feed file. Columns are proposed, faults are named, bad rows kept aside."],
          ["Shelves", "See which items bring sales and which only cost."],
          ["Planogram", "Turn fields and shelves into campaigns and groups, with proof that nothing leaks."],
          ["Dispatch", "Read the change in words, send it, take it back if you like."],
          ["Results", "Run days of the test market, see what happened, go round again."],
        ].map(([name, text], i) => (
          <li key={name} className="flex gap-3">
            <span className="font-display text-lg font-semibold text-ember num">{i + 1}</span>
            <span>
              <b>{name}.</b> {text}
            </span>
          </li>
        ))}
      </ol>
    </>
  );
}

/** The form for a workspace. Only drawn in the browser: its time zones and currencies are not the server's. */
function NewWorkspaceForm() {
  const router = useRouter();
  const [error, setError] = useState<Failure | null>(null);
  const ownZone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const form = useForm<Form>({
    resolver: zodResolver(formSchema),
    defaultValues: { name: "", currency: "EUR", timeZone: ownZone, goal: 3 },
  });
  const { errors, isSubmitting } = form.formState;
  const zones = [...new Set([ownZone, "Europe/Berlin", ...Intl.supportedValuesOf("timeZone")])];

  const make = form.handleSubmit(async (values) => {
    setError(null);
    const slug = slugOf(values.name);
    try {
      await apiSend("workspaces", { slug, ...values });
      router.push(`/w/${slug}/catalogue?upload=true`);
    } catch (failure) {
      if (failure instanceof ApiError) setError(failure.failure);
      else throw failure;
    }
  });

  return (
    <form onSubmit={make} noValidate className="h-fit space-y-4 rounded-lg border border-line bg-surface p-5">
      <h2 className="font-display text-lg font-semibold">Make a workspace</h2>
      <Field label="Shop name" error={errors.name?.message}>
        {(props) => <TextInput {...props} {...form.register("name")} autoFocus placeholder="Your shop" />}
      </Field>
      <div className="grid grid-cols-2 gap-3">
        <Field label="Currency" hint="As in your feed's prices.">
          {(props) => (
            <Select {...props} {...form.register("currency")}>
              {Intl.supportedValuesOf("currency").map((code) => (
                <option key={code}>{code}</option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="Goal return" hint="Sales per unit of ad cost." error={errors.goal?.message}>
          {(props) => (
            <TextInput
              {...props}
              type="number"
              step="0.1"
              min="0"
              {...form.register("goal", { valueAsNumber: true })}
            />
          )}
        </Field>
      </div>
      <Field label="Time zone" hint="Days begin and end by it.">
        {(props) => (
          <Select {...props} {...form.register("timeZone")}>
            {zones.map((zone) => (
              <option key={zone}>{zone}</option>
            ))}
          </Select>
        )}
      </Field>
      {error && <ErrorNote error={error} />}
      <Button look="ember" type="submit" disabled={isSubmitting} className="w-full justify-center">
        Make workspace and choose a feed
      </Button>
    </form>
  );
}
