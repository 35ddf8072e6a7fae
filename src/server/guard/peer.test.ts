import { spawn } from "node:child_process";
import net from "node:net";
import { expect, test } from "vitest";
import { canTellPeers, listenerUid, ownerIn, peerUid } from "./peer";

const head = "  sl  local_address rem_address   st tx_queue rx_queue tr tm->when retrnsmt   uid  timeout inode";
const row = (local: string, remote: string, state: string, uid: number, inode = 77) =>
  `   3: ${local} ${remote} ${state} 00000000:00000000 00:00000000 00000000  ${uid}        0 ${inode} 1 0000000000000000 20 4 30 10 -1`;
const [client, server] = [
  { address: "127.0.0.1", port: 40000 },
  { address: "127.0.0.1", port: 4180 },
];

test.each([
  [
    "the other end, and not our own",
    [row("0100007F:1054", "0100007F:9C40", "01", 0), row("0100007F:9C40", "0100007F:1054", "01", 1007)],
    1007,
  ],
  [
    "one that came through an IPv6 socket",
    [row("0000000000000000FFFF00000100007F:9C40", "0000000000000000FFFF00000100007F:1054", "01", 5)],
    5,
  ],
  ["not one of another port", [row("0100007F:9C41", "0100007F:1054", "01", 1007)], undefined],
  ["not one that is over, whose uid says nothing", [row("0100007F:9C40", "0100007F:1054", "06", 0, 0)], undefined],
  ["not one that no process holds", [row("0100007F:9C40", "0100007F:1054", "01", 0, 0)], undefined],
  ["not one that only listens there", [row("0100007F:9C40", "00000000:0000", "0A", 1007)], undefined],
])("whose a connection is, is told by its row: %s", (_, rows, uid) => {
  expect(ownerIn([head, ...rows, ""].join("\n"), "01", client, server)).toBe(uid);
});

test("on this computer, of our own connection and of another user's", async () => {
  expect(await canTellPeers()).toBe(true);
  const door = net.createServer({ pauseOnConnect: true });
  await new Promise<void>((done) => door.listen(0, "127.0.0.1", done));
  const { port } = door.address() as net.AddressInfo;
  expect(listenerUid(port)).toBe(process.getuid!());
  const arriving = () => new Promise<net.Socket>((done) => door.once("connection", done));
  const mine = arriving();
  const own = net.connect(port, "127.0.0.1");
  expect(peerUid(await mine)).toBe(process.getuid!());
  own.destroy();
  const theirs = arriving();
  const ask = `require("node:net").connect(${port}, "127.0.0.1").on("error", () => {}); setTimeout(() => {}, 60_000)`;
  const other = spawn("setpriv", ["--reuid=1777", "--regid=1777", "--clear-groups", process.execPath, "-e", ask]);
  expect(peerUid(await theirs)).toBe(1777);
  other.kill();
  door.close();
});
