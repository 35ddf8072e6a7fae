import { createHash } from "node:crypto";
import fs from "node:fs";
import net from "node:net";
import tls from "node:tls";
import type { buildConnector } from "undici";
import { Problem } from "@/core/problem";

/** Debian's file of certificates that this computer trusts; another where the person names one. */
const trustedFile = () => process.env.SSL_CERT_FILE || "/etc/ssl/certs/ca-certificates.crt";

let read: { file: string; ca: string | undefined } | undefined;

function trusted(): string | undefined {
  const file = trustedFile();
  if (read?.file !== file) {
    try {
      read = { file, ca: fs.readFileSync(/*turbopackIgnore: true*/ file, "utf8") };
    } catch {
      // Without that file those that Node.js brings are trusted.
      read = { file, ca: undefined };
    }
  }
  return read.ca;
}

/** What a certificate is told by: the SHA-256 of all of it, in hex. */
export const fingerprint = (certificate: Buffer): string => createHash("sha256").update(certificate).digest("hex");

const shown = (sum: string) => sum.match(/../g)!.join(":");

const connectMs = 10_000;

/**
 * Opens connections to one cloud. Over TLS either somebody whom this computer trusts vouches for it under its name, or its
 * certificate is, byte for byte, the one that the person accepted: looked at before the first byte of a request goes out.
 */
export function connector(title: string, pin: string | undefined): buildConnector.connector {
  return ({ hostname, port, protocol }, callback) => {
    const host = hostname.replace(/^\[|\]$/g, "");
    let over = false;
    const end = (error: Error | null, socket?: net.Socket) => {
      if (over) return;
      over = true;
      clearTimeout(timer);
      socket?.off("error", failed);
      if (error) callback(error, null);
      else callback(null, socket!);
    };
    const failed = (error: Error) => end(error);
    const socket =
      protocol === "https:"
        ? tls.connect({
            host,
            port: Number(port || 443),
            ca: trusted(),
            servername: net.isIP(host) ? undefined : host,
            ALPNProtocols: ["http/1.1"],
            // Looked at below, where what is wrong can be said.
            rejectUnauthorized: false,
          })
        : net.connect({ host, port: Number(port || 80) });
    const timer = setTimeout(() => {
      socket.destroy();
      end(Object.assign(new Error("no answer"), { code: "ETIMEDOUT" }));
    }, connectMs);
    socket.once("error", failed);
    if (!(socket instanceof tls.TLSSocket)) {
      socket.once("connect", () => end(null, socket.setNoDelay(true)));
      return;
    }
    socket.once("secureConnect", () => {
      const problem = distrust(socket, host, title, pin);
      if (problem) socket.destroy();
      end(problem ?? null, socket.setNoDelay(true));
    });
  };
}

function distrust(socket: tls.TLSSocket, host: string, title: string, pin: string | undefined): Problem | undefined {
  const certificate = socket.getPeerCertificate();
  const sum = certificate.raw ? fingerprint(certificate.raw) : "";
  if (pin !== undefined) {
    if (sum === pin) return undefined;
    const detail = `SHA-256 ${shown(sum)}, valid from ${certificate.valid_from} to ${certificate.valid_to}; accepted was ${shown(pin)}`;
    return new Problem("certificate-changed", { place: title, name: sum, detail });
  }
  const wrong = socket.authorized ? tls.checkServerIdentity(host, certificate) : socket.authorizationError;
  if (!wrong) return undefined;
  const why = wrong instanceof Error ? ((wrong as { code?: string }).code ?? wrong.message) : String(wrong);
  const detail = `${reasons[why] ?? why}; SHA-256 ${shown(sum)}, valid from ${certificate.valid_from} to ${certificate.valid_to}`;
  return new Problem("certificate-unknown", { place: title, name: sum, detail });
}

const reasons: Record<string, string> = {
  DEPTH_ZERO_SELF_SIGNED_CERT: "nobody but itself says so",
  SELF_SIGNED_CERT_IN_CHAIN: "whoever says so is not known here",
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: "whoever says so is not known here",
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: "whoever says so is not known here",
  CERT_HAS_EXPIRED: "its certificate has run out",
  CERT_NOT_YET_VALID: "its certificate is not valid yet",
  ERR_TLS_CERT_ALTNAME_INVALID: "its certificate is for another name",
};
