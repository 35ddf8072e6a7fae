import type http from "node:http";
import net from "node:net";
import { peerUid } from "./peer";

/**
 * The door of a server: each connection is asked whose it is before a byte of it is read, and only the person's own are
 * handed to the server inside. What another user of this computer got hold of, a cookie or a link, is of no use to them.
 */
export function doorTo(inside: http.Server): net.Server {
  const own = process.getuid?.();
  // As a server of node:http sets it for itself: small answers do not wait for one another.
  return net.createServer({ pauseOnConnect: true, noDelay: true }, (socket) => {
    if (own === undefined || peerUid(socket) !== own) {
      socket.destroy();
      return;
    }
    inside.emit("connection", socket);
    socket.resume();
  });
}
