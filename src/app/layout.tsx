import type { Metadata } from "next";
import { headers } from "next/headers";
import { connection } from "next/server";
import type { ReactNode } from "react";
import { Nonce } from "@/ui/kit/nonce";
import "./globals.css";

export const metadata: Metadata = { description: "From a cluttered desktop to a bare one, and back." };

export default async function RootLayout({ children }: { children: ReactNode }) {
  await connection();
  const nonce = (await headers()).get("x-nonce") ?? "";
  return (
    <html lang="en">
      <body>
        <Nonce value={nonce} />
        {children}
      </body>
    </html>
  );
}
