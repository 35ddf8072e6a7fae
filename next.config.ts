import type { NextConfig } from "next";

const config: NextConfig = {
  serverExternalPackages: ["better-sqlite3", "sharp", "pino", "koffi", "file-type"],
  // The minifier moves expressions past one another that must not be; what handles files is run as it was written.
  experimental: { serverMinification: false },
  poweredByHeader: false,
  // Next must not take a parent folder with a lock file of its own for the root.
  outputFileTracingRoot: import.meta.dirname,
  turbopack: { root: import.meta.dirname },
  devIndicators: false,
};

export default config;
