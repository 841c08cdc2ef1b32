import type { NextConfig } from "next";

const config: NextConfig = {
  // The database driver loads a native binary of its own.
  serverExternalPackages: ["@libsql/client", "libsql", "pino"],
  poweredByHeader: false,
  // Type check and lint are steps of their own (npm run check).
  typescript: { ignoreBuildErrors: true },
  headers: async () => [
    {
      source: "/:path*",
      headers: [
        { key: "X-Content-Type-Options", value: "nosniff" },
        { key: "Referrer-Policy", value: "same-origin" },
        { key: "X-Frame-Options", value: "DENY" },
      ],
    },
  ],
};

export default config;
