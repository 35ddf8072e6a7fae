import { type ChildProcess, spawn, spawnSync } from "node:child_process";
import fs from "node:fs";
import net from "node:net";
import path from "node:path";

/** A WebDAV server of the computer's own packages, over a folder, on loopback. */
export interface OtherServer {
  url: string;
  user: string;
  password: string;
  /** Where it keeps what it is sent. */
  folder: string;
  stop(): Promise<void>;
}

const [user, password] = ["station", "gannet"];

const freePort = () =>
  new Promise<number>((done) => {
    const probe = net.createServer();
    probe.listen(0, "127.0.0.1", () => {
      const { port } = probe.address() as net.AddressInfo;
      probe.close(() => done(port));
    });
  });

async function started(child: ChildProcess, port: number): Promise<void> {
  for (let tries = 0; tries < 100; tries++) {
    const open = await new Promise<boolean>((done) => {
      const socket = net.connect(port, "127.0.0.1", () => done(true)).on("error", () => done(false));
      socket.on("connect", () => socket.destroy());
    });
    if (open) return;
    if (child.exitCode !== null) break;
    await new Promise((next) => setTimeout(next, 50));
  }
  throw new Error("the other WebDAV server did not start");
}

const stopping = (child: ChildProcess) => () =>
  new Promise<void>((done) => {
    if (child.exitCode !== null) return done();
    child.once("exit", () => done());
    child.kill("SIGTERM");
  });

const has = (file: string) => fs.existsSync(file);

const makeFolder = (base: string, name: string): string => {
  const folder = path.join(base, name, "files");
  fs.mkdirSync(folder, { recursive: true });
  fs.chmodSync(base, 0o755);
  return folder;
};

/** Apache HTTP Server with mod_dav; undefined where it is not installed. */
export async function apache(base: string): Promise<OtherServer | undefined> {
  if (!has("/usr/sbin/apache2")) return undefined;
  const folder = makeFolder(base, "apache");
  const own = path.dirname(folder);
  const port = await freePort();
  const modules = ["mpm_event", "authn_core", "authn_file", "authz_core", "authz_user", "auth_basic", "dav", "dav_fs"];
  spawnSync("chown", ["-R", "www-data", own]);
  const hash = spawnSync("openssl", ["passwd", "-apr1", password], { encoding: "utf8" }).stdout.trim();
  fs.writeFileSync(path.join(own, "users"), `${user}:${hash}\n`);
  const config = [
    ...modules.map((name) => `LoadModule ${name}_module /usr/lib/apache2/modules/mod_${name}.so`),
    "User www-data",
    `ServerName 127.0.0.1`,
    `ServerRoot ${own}`,
    `PidFile ${own}/pid`,
    `DefaultRuntimeDir ${own}`,
    `Listen 127.0.0.1:${port}`,
    `ErrorLog ${own}/errors`,
    "KeepAlive On",
    "MaxKeepAliveRequests 0",
    `DocumentRoot ${folder}`,
    `DavLockDB ${own}/locks`,
    `<Directory ${folder}>`,
    "Dav On",
    "AuthType Basic",
    "AuthName station",
    `AuthUserFile ${own}/users`,
    "Require valid-user",
    "</Directory>",
  ];
  fs.writeFileSync(path.join(own, "conf"), `${config.join("\n")}\n`);
  const child = spawn("/usr/sbin/apache2", ["-f", path.join(own, "conf"), "-DFOREGROUND"], {
    stdio: "ignore",
  });
  await started(child, port);
  return { url: `http://127.0.0.1:${port}/`, user, password, folder, stop: stopping(child) };
}

/** lighttpd with mod_webdav; undefined where it is not installed. */
export async function lighttpd(base: string): Promise<OtherServer | undefined> {
  if (!has("/usr/sbin/lighttpd") || !has("/usr/lib/lighttpd/mod_webdav.so")) return undefined;
  const folder = makeFolder(base, "lighttpd");
  const own = path.dirname(folder);
  const port = await freePort();
  fs.writeFileSync(path.join(own, "users"), `${user}:${password}\n`);
  const config = [
    'server.modules = ("mod_auth", "mod_authn_file", "mod_webdav")',
    `server.document-root = "${folder}"`,
    `server.port = ${port}`,
    'server.bind = "127.0.0.1"',
    `server.errorlog = "${own}/errors"`,
    'webdav.activate = "enable"',
    'auth.backend = "plain"',
    `auth.backend.plain.userfile = "${own}/users"`,
    'auth.require = ("/" => ("method" => "basic", "realm" => "station", "require" => "valid-user"))',
  ];
  fs.writeFileSync(path.join(own, "conf"), `${config.join("\n")}\n`);
  const child = spawn("/usr/sbin/lighttpd", ["-D", "-f", path.join(own, "conf")], { stdio: "ignore" });
  await started(child, port);
  return { url: `http://127.0.0.1:${port}/`, user, password, folder, stop: stopping(child) };
}
