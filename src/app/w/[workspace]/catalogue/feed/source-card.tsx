"use client";

import { formatDistanceToNowStrict } from "date-fns";
import { useState } from "react";
import { toast } from "sonner";
import { formatMoment } from "@/core/kit/format";
import { versionOf } from "@/core/kit/version-of";
import type { ShownSource } from "@/server/catalogue/feed-source";
import type { FeedInfo } from "@/server/catalogue/feeds";
import { Button } from "@/ui/button";
import { Field, Select, TextInput } from "@/ui/field";
import { Surface } from "@/ui/page";
import { apiSend, toastError, toastMeanwhile } from "../../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { LoginFields, withLogin } from "../login-fields";
import { FEED } from "../upload-dialog";

type Kind = "upload" | "url" | "folder";

const EVERY: [pattern: string, label: string][] = [
  ["*/15 * * * *", "Every 15 minutes"],
  ["0 * * * *", "Every hour"],
  ["0 */4 * * *", "Every four hours"],
];

/** A daily time as a pattern, and back. */
function dailyTime(pattern: string | null): string | null {
  const found = /^(\d{1,2}) (\d{1,2}) \* \* \*$/.exec(pattern ?? "");
  return found ? `${found[2]!.padStart(2, "0")}:${found[1]!.padStart(2, "0")}` : null;
}

/** Where the feed is read from by itself, and when. Addresses can hold keys, so whoever may not change them sees the host. */
export function SourceCard({ feed, inbox }: { feed: FeedInfo; inbox: string }) {
  if (feed.source?.kind !== "url" || !feed.source.isCut) return <SourceForm feed={feed} inbox={inbox} />;
  return (
    <Surface title="Source">
      <p>
        The feed comes from <code className="font-mono text-sm">{feed.source.url}</code>
        {feed.schedule === null ? ", fetched by hand." : `, fetched at ${dailyTime(feed.schedule) ?? feed.schedule}.`}
      </p>
      <p className="mt-1 text-sm text-soft">An owner of the workspace sees all of the address, and can change it.</p>
    </Surface>
  );
}

function SourceForm({ feed, inbox }: { feed: FeedInfo; inbox: string }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const { timeZone } = useWorkspace();
  const [kind, setKind] = useState<Kind>(feed.source?.kind ?? "upload");
  const [url, setUrl] = useState(feed.source?.kind === "url" ? feed.source.url : "");
  const kept = feed.source?.kind === "url" ? feed.source : null;
  const [login, setLogin] = useState({ user: kept?.user ?? "", password: "" });
  const [hasPassword, setHasPassword] = useState(kept?.hasPassword ?? false);
  const [pattern, setPattern] = useState(feed.source?.kind === "folder" ? feed.source.pattern : "");
  const daily = dailyTime(feed.schedule);
  const [when, setWhen] = useState(feed.schedule === null ? "" : daily ? "daily" : feed.schedule);
  const [time, setTime] = useState(daily ?? "06:00");
  const isKnown = when === "" || when === "daily" || EVERY.some(([one]) => one === when);
  const [own, setOwn] = useState(isKnown ? "" : when);
  // As it was when the card opened, whatever is read anew since.
  const [seen, setSeen] = useState(() => versionOf({ source: feed.source, schedule: feed.schedule }));
  const save = async (since = `?since=${seen}`) => {
    const source =
      kind === "url" ? withLogin(url, login) : kind === "folder" ? { kind, pattern: pattern.trim() } : null;
    const [hour, minute] = time.split(":").map(Number);
    const schedule =
      kind !== "url" || when === "" ? null : when === "daily" ? `${minute} ${hour} * * *` : isKnown ? when : own.trim();
    const given = { source, schedule };
    const stored = await apiSend<{ source: ShownSource | null }>(apiPath(`feeds/${FEED}/source${since}`), given, "PUT");
    setSeen(versionOf({ source: stored.source, schedule }));
    if (stored.source?.kind === "url") {
      setUrl(stored.source.url);
      setLogin({ user: stored.source.user ?? "", password: "" });
      setHasPassword(stored.source.hasPassword ?? false);
    }
    toast.success("Source kept");
    await refresh();
  };
  return (
    <Surface title="Source">
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          void save().catch((error: unknown) => toastMeanwhile(error, () => void save("").catch(toastError)));
        }}
      >
        <Field label="The feed comes from">
          {(props) => (
            <Select {...props} value={kind} onChange={(event) => setKind(event.target.value as Kind)}>
              <option value="upload">what I upload</option>
              <option value="url">an address</option>
              <option value="folder">the watched folder</option>
            </Select>
          )}
        </Field>
        {kind === "url" && (
          <>
            <Field label="Address">
              {(props) => <TextInput {...props} value={url} onChange={(event) => setUrl(event.target.value)} />}
            </Field>
            <LoginFields login={login} onChange={setLogin} isKept={hasPassword} />
            <Field label="Fetched" hint={`Times are those of ${timeZone}.`}>
              {(props) => (
                <Select {...props} value={isKnown ? when : "own"} onChange={(event) => setWhen(event.target.value)}>
                  <option value="">by hand only</option>
                  {EVERY.map(([one, label]) => (
                    <option key={one} value={one}>
                      {label}
                    </option>
                  ))}
                  <option value="daily">Once a day</option>
                  <option value="own">By a cron pattern</option>
                </Select>
              )}
            </Field>
            {when === "daily" && (
              <Field label="At">
                {(props) => (
                  <TextInput {...props} type="time" value={time} onChange={(event) => setTime(event.target.value)} />
                )}
              </Field>
            )}
            {!isKnown && (
              <Field label="Pattern" hint="minute hour day month weekday">
                {(props) => (
                  <TextInput
                    {...props}
                    placeholder="30 6 * * 1-5"
                    value={own}
                    onChange={(event) => setOwn(event.target.value)}
                  />
                )}
              </Field>
            )}
          </>
        )}
        {kind === "folder" && (
          <Field
            label="File name"
            hint={
              <>
                In <span className="font-mono break-all">{inbox}</span>; * stands for anything. A new file is read
                within seconds.
              </>
            }
          >
            {(props) => <TextInput {...props} value={pattern} onChange={(event) => setPattern(event.target.value)} />}
          </Field>
        )}
        <p className="text-sm text-soft num" suppressHydrationWarning>
          {feed.nextAt !== null && `Next on ${formatMoment(feed.nextAt, timeZone)}. `}
          {feed.lookedAt !== null && `Looked at ${formatDistanceToNowStrict(feed.lookedAt, { addSuffix: true })}.`}
        </p>
        <Button type="submit">Keep the source</Button>
      </form>
    </Surface>
  );
}
