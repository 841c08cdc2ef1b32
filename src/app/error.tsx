"use client";

import { Button } from "@/ui/button";

export default function PageError({ error, reset }: { error: Error & { digest?: string }; reset: () => void }) {
  return (
    <main className="mx-auto max-w-md p-12 text-center" role="alert">
      <h1 className="font-display text-2xl font-semibold">This page could not be shown</h1>
      <p className="mt-2 text-soft">
        Nothing was changed. {error.digest ? `Reference ${error.digest}.` : ""} Try again; the server&apos;s log has the
        details.
      </p>
      <Button className="mt-4" onClick={reset}>
        Try again
      </Button>
    </main>
  );
}
