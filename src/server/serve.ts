import http from "node:http";
import net from "node:net";
import next from "next";
import { hostName, port } from "./guard/guard";
import { peerUid } from "./guard/peer";
import { install } from "./install";

/**
 * The server, around Next's handler: every connection is asked whose it is before a byte of it is read. A cookie or a link
 * that another user of this computer got hold of is of no use to them, as they get no word in.
 */
const app = next({ dev: false, dir: install(), hostname: hostName, port: Number(port()) });
const handle = app.getRequestHandler();
const inside = http.createServer((request, answer) => void handle(request, answer));
const own = process.getuid?.();

// As a server of node:http sets it for itself: small answers do not wait for one another.
const door = net.createServer({ pauseOnConnect: true, noDelay: true }, (socket) => {
  if (own === undefined || peerUid(socket) !== own) {
    socket.destroy();
    return;
  }
  inside.emit("connection", socket);
  socket.resume();
});
const failed = (error: unknown) => {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
};
door.once("error", failed);
door.once("listening", () => {
  // Who started it is told, and held to no longer.
  process.send?.("listening");
  if (process.connected) process.disconnect();
});
app.prepare().then(() => door.listen(Number(port()), hostName), failed);
