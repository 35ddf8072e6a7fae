import http from "node:http";
import next from "next";
import { doorTo } from "./guard/door";
import { hostName, port } from "./guard/guard";
import { install } from "./install";

/** The server, around Next's handler. */
const app = next({ dev: false, dir: install(), hostname: hostName, port: Number(port()) });
const handle = app.getRequestHandler();
const door = doorTo(http.createServer((request, answer) => void handle(request, answer)));
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
