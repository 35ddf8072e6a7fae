import type { NextConfig } from "next";

const config: NextConfig = {
  serverExternalPackages: ["better-sqlite3", "sharp", "pino", "koffi", "file-type"],
  // The minifier moves expressions past one another that must not be; what handles files is run as it was written.
  experimental: { serverMinification: false },
  // Types are checked by `npm run check` and the tests, once.
  typescript: { ignoreBuildErrors: true },
  poweredByHeader: false,
  // What is sent stays on this computer: packing it would only take time.
  compress: false,
  headers: async () => [
    {
      source: "/api/:path*",
      headers: [
        { key: "content-security-policy", value: "default-src 'none'; frame-ancestors 'none'; sandbox" },
        { key: "x-content-type-options", value: "nosniff" },
      ],
    },
  ],
  // Next must not take a parent folder with a lock file of its own for the root.
  outputFileTracingRoot: import.meta.dirname,
  turbopack: { root: import.meta.dirname },
  devIndicators: false,
};

export default config;
