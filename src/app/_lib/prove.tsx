"use client";

import { usePathname } from "next/navigation";
import { useEffect, useState } from "react";
import type { Failure } from "@/core/kit/outcome";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";

import { ErrorNote } from "@/ui/notes";
import { CodeField, PasswordField, WorkNote } from "@/ui/secret-fields";
import { ApiError, apiProve, onUnproved } from "./api";
import { useSession } from "./session";

/** Asks for the password once more when something grave wants it, and lets what was asked for go on. */
export function ProveDialog() {
  const [waiting, setWaiting] = useState<((isProved: boolean) => void) | null>(null);
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const [error, setError] = useState<Failure | null>(null);
  const [isAtWork, setAtWork] = useState(false);
  const session = useSession();
  const here = usePathname();
  useEffect(
    () =>
      onUnproved(
        () =>
          new Promise<boolean>((resolve) => {
            setError(null);
            setPassword("");
            setCode("");
            setWaiting(() => resolve);
          }),
      ),
    [],
  );
  const end = (isProved: boolean) => {
    waiting?.(isProved);
    setWaiting(null);
  };
  const prove = async () => {
    try {
      await apiProve("session/proof", { password, ...(code && { code }) }, () => setAtWork(true));
      setAtWork(false);
      end(true);
    } catch (failure) {
      setAtWork(false);
      if (!(failure instanceof ApiError)) throw failure;
      setError(failure.failure);
    }
  };
  return (
    <Dialog open={waiting !== null} onClose={() => end(false)} title="Your password once more">
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          void prove();
        }}
      >
        <p className="text-soft">
          This can cost money or open doors, so it is asked for again an hour after the last time.
        </p>
        {error && <ErrorNote error={error} />}
        <PasswordField autoFocus value={password} onChange={setPassword} />
        <CodeField value={code} onChange={setCode} />
        {isAtWork && <WorkNote />}
        {session.data?.isElsewhereOn && (
          <a
            className="block text-sm text-petrol hover:underline"
            href={`/api/v1/session/elsewhere?to=${encodeURIComponent(here)}`}
          >
            Or prove it with your organisation; this page opens anew then
          </a>
        )}
        <Button look="ember" type="submit" disabled={password === ""}>
          Go on
        </Button>
      </form>
    </Dialog>
  );
}
