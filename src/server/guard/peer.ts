import fs from "node:fs";
import net from "node:net";
import os from "node:os";

/** One end of a connection: a dotted address and a port. */
interface End {
  address: string;
  port: number;
}

/** An end as proc(5) writes it: the address as the machine's own 32-bit number and the port, in hexadecimal digits. */
function asRow({ address, port }: End): string {
  const bytes = address.split(".").map(Number);
  if (os.endianness() === "LE") bytes.reverse();
  const hex = (n: number, digits: number) => n.toString(16).toUpperCase().padStart(digits, "0");
  return `${bytes.map((byte) => hex(byte, 2)).join("")}:${hex(port, 4)}`;
}

const established = "01";
const listening = "0A";
/** How an IPv4 address stands in tcp6: ::ffff:a.b.c.d, four numbers of which the third is 0000ffff. */
const mapped = os.endianness() === "LE" ? "0000000000000000FFFF0000" : "00000000000000000000FFFF";

/**
 * Whose a socket is: the uid in the row of /proc/net/tcp or tcp6 with this local end and, where given, this remote one, in
 * this state. A socket that no process holds any more has no inode there, and counts as nobody's.
 */
export function ownerIn(table: string, state: string, local: End, remote?: End): number | undefined {
  const near = asRow(local);
  const far = remote && asRow(remote);
  for (const line of table.split("\n")) {
    const [, localEnd, remoteEnd, is, , , , uid, , inode] = line.trim().split(/\s+/);
    if (is !== state || !uid || !inode || inode === "0") continue;
    const isEnd = (written: string | undefined, end: string) => written === end || written === mapped + end;
    if (isEnd(localEnd, near) && (far === undefined || isEnd(remoteEnd, far))) return Number(uid);
  }
  return undefined;
}

function ownerNow(state: string, local: End, remote?: End): number | undefined {
  for (const table of ["/proc/net/tcp", "/proc/net/tcp6"]) {
    try {
      const owner = ownerIn(fs.readFileSync(table, "latin1"), state, local, remote);
      if (owner !== undefined) return owner;
    } catch {
      // Without IPv6 there is no tcp6.
    }
  }
  return undefined;
}

/** The uid of the process at the other end of an accepted connection of this computer; undefined where it cannot be told. */
export function peerUid(socket: net.Socket): number | undefined {
  const { remoteAddress, remotePort, localAddress, localPort } = socket;
  if (!remoteAddress || !remotePort || !localAddress || !localPort) return undefined;
  return ownerNow(established, { address: remoteAddress, port: remotePort }, { address: localAddress, port: localPort });
}

/** The uid of the process that listens at a port of 127.0.0.1; undefined where none does, or it cannot be told. */
export const listenerUid = (port: number): number | undefined => ownerNow(listening, { address: "127.0.0.1", port });

/** Tries on a connection to ourselves whether it can be told here whose a connection is. */
export async function canTellPeers(): Promise<boolean> {
  const door = net.createServer({ pauseOnConnect: true });
  try {
    await new Promise<void>((done) => door.listen(0, "127.0.0.1", done));
    const { port } = door.address() as net.AddressInfo;
    if (listenerUid(port) !== process.getuid?.()) return false;
    const accepted = new Promise<net.Socket>((done) => door.once("connection", done));
    const asking = net.connect(port, "127.0.0.1");
    const socket = await accepted;
    const told = peerUid(socket) === process.getuid?.();
    socket.destroy();
    asking.destroy();
    return told;
  } finally {
    door.close();
  }
}
