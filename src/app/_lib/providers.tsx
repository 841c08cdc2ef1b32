"use client";

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { ThemeProvider } from "next-themes";
import { NuqsAdapter } from "nuqs/adapters/next/app";
import { useEffect, useState, type ReactNode } from "react";
import { Toaster } from "sonner";
import { ApiError } from "./api";
import { sayLive } from "./early-presses";
import { ProveDialog } from "./prove";
import { shareSeen } from "./seen";
import { ServerWatch } from "./server-watch";

/** Asked once more where the server could not be reached or failed; a refusal with a sentence stays a refusal. */
function mayAnswerNextTime(failures: number, error: Error): boolean {
  const isRefused = error instanceof ApiError && error.status >= 400 && error.status < 500;
  return failures < 1 && !isRefused;
}

/** What every page stands in: theme, state in the URL, cached requests, toasts. */
export function Providers({ nonce, children }: { nonce?: string; children: ReactNode }) {
  useEffect(sayLive, []);
  const [client] = useState(
    () =>
      new QueryClient({
        defaultOptions: {
          queries: {
            staleTime: 15_000,
            retry: mayAnswerNextTime,
            refetchOnWindowFocus: false,
            structuralSharing: shareSeen,
          },
        },
      }),
  );
  return (
    <ThemeProvider
      attribute="data-theme"
      defaultTheme="light"
      enableSystem={false}
      nonce={nonce}
      disableTransitionOnChange
    >
      <NuqsAdapter>
        <QueryClientProvider client={client}>
          {children}
          <ProveDialog />
          <ServerWatch />
        </QueryClientProvider>
      </NuqsAdapter>
      <Toaster
        position="bottom-right"
        offset={{ bottom: 64, right: 16 }}
        toastOptions={{
          style: {
            background: "var(--surface)",
            color: "var(--ink)",
            border: "1px solid var(--line)",
            fontFamily: "var(--font-sans)",
          },
        }}
      />
    </ThemeProvider>
  );
}
