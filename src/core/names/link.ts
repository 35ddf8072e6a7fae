import { bytesOfRaw, type Raw } from "./raw";

/** A name as a part of an address, by its bytes (RFC 3986): whatever it holds, it leads there. */
export const linkTo = (name: Raw): string =>
  [...bytesOfRaw(name)]
    .map((byte) =>
      /[A-Za-z0-9._~-]/.test(String.fromCharCode(byte))
        ? String.fromCharCode(byte)
        : `%${byte.toString(16).toUpperCase().padStart(2, "0")}`,
    )
    .join("");
