import type { Metadata } from "next";
import { headers } from "next/headers";
import type { ReactNode } from "react";
import "@fontsource-variable/hanken-grotesk";
import "@fontsource-variable/bricolage-grotesque";
import "@fontsource/ibm-plex-mono/400.css";
import "./globals.css";
import { EarlyPresses } from "./_lib/early-presses";
import { Providers } from "./_lib/providers";

export const metadata: Metadata = {
  title: { default: "Hot Shelf", template: "%s · Hot Shelf" },
  description: "The workbench of an e-commerce catalogue advertiser.",
};

export default async function RootLayout({ children }: { children: ReactNode }) {
  const nonce = (await headers()).get("x-nonce") ?? undefined;
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <EarlyPresses nonce={nonce} />
        <Providers nonce={nonce}>{children}</Providers>
      </body>
    </html>
  );
}
