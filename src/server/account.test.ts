import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { type Raw, rawFromText } from "@/core/names/raw";
import { dataFolderFor, mayBeHome, openAccount, tuckedFolder, worktopOf } from "./account";

let folder: string;
const at = (...parts: string[]) => path.join(folder, ...parts);
const open = (root = at("home")) => openAccount({ root: rawFromText(root), data: at("data") });

beforeEach(() => {
  folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-account-")));
  fs.mkdirSync(at("home"));
});
afterEach(() => fs.rmSync(folder, { recursive: true }));

describe("an account", () => {
  test("with the usual folders", () => {
    for (const name of ["Desktop", "Downloads", "Documents", "Pictures"]) fs.mkdirSync(at("home", name));
    const account = open();
    expect(account.worktops).toEqual([
      { id: "desktop", folder: at("home/Desktop") },
      { id: "downloads", folder: at("home/Downloads") },
    ]);
    expect(account.standardHomes.map((h) => h.key)).toEqual(["DOCUMENTS", "PICTURES"]);
    expect(account.trash).toBe(at("home/.local/share/Trash"));
    expect(account.sample).toBe(false);
  });
  test("whose user-dirs.dirs gives other names, or switches one off", () => {
    fs.mkdirSync(at("home/.config"));
    for (const name of ["Bureau", "Inbox", "Downloads", "Music"]) fs.mkdirSync(at("home", name));
    fs.writeFileSync(
      at("home/.config/user-dirs.dirs"),
      'XDG_DESKTOP_DIR="$HOME/Bureau"\nXDG_DOWNLOAD_DIR="$HOME/Inbox"\nXDG_MUSIC_DIR="$HOME/"\n',
    );
    const account = open();
    expect(account.worktops.map((w) => w.folder)).toEqual([at("home/Bureau"), at("home/Inbox")]);
    expect(account.standardHomes).toEqual([]);
  });
  test("with one worktop alone, or one folder for both", () => {
    fs.mkdirSync(at("home/Downloads"));
    expect(open().worktops.map((w) => w.id)).toEqual(["downloads"]);
    fs.mkdirSync(at("home/.config"));
    fs.writeFileSync(at("home/.config/user-dirs.dirs"), 'XDG_DESKTOP_DIR="$HOME/Downloads"\n');
    expect(open().worktops.map((w) => w.id)).toEqual(["desktop"]);
  });
  test("whose desktop is a link is worked in where that leads", () => {
    fs.mkdirSync(at("elsewhere"));
    fs.symlinkSync("../elsewhere", at("home/Desktop"));
    expect(open().worktops[0]!.folder).toBe(at("elsewhere"));
  });
  test("reached through a link or with dots is the same account", () => {
    fs.mkdirSync(at("home/Desktop"));
    fs.symlinkSync("home", at("link"));
    expect(open(at("link")).root).toBe(at("home"));
    expect(open(`${at("home")}/./Desktop/..`).root).toBe(at("home"));
  });
  test("that is none is said with what to do", () => {
    for (const [root, code] of [
      [at("home"), "no-worktop"],
      [at("missing"), "no-account"],
    ] as const)
      expect(() => open(root)).toThrow(
        expect.objectContaining({ code, message: expect.stringMatching(/--account|Make a folder/) }),
      );
    fs.mkdirSync(at("home/.config"));
    fs.mkdirSync(at("home/Desktop"));
    fs.writeFileSync(at("home/.config/user-dirs.dirs"), 'XDG_DESKTOP_DIR="$HOME/"\n');
    expect(() => open()).toThrow(expect.objectContaining({ code: "no-worktop" }));
  });
  test("has a data folder of its own, for the person alone", () => {
    fs.mkdirSync(at("home/Desktop"));
    open();
    expect(fs.statSync(at("data")).mode & 0o777).toBe(0o700);
    const [a, b] = ["/home/u", "/home/v"].map((root) => dataFolderFor(root as Raw));
    expect(a).not.toBe(b);
    expect(path.dirname(a!)).toBe(path.dirname(b!));
    expect(path.basename(dataFolderFor("/home/a b\n/c" as Raw))).toMatch(/^[A-Za-z0-9_-]+$/);
  });
  test("what may be a home", () => {
    for (const name of ["Desktop/sub", "Documents"]) fs.mkdirSync(at("home", name), { recursive: true });
    const account = open();
    const may = (rel: string) => mayBeHome(account, rawFromText(at("home", rel)));
    expect([may("Documents"), may("New"), may("Desktop/sub")]).toEqual([true, true, true]);
    expect([may("Desktop"), may("Desktop/.out-of-sight/x"), may(".local/share/Trash/files"), may("..")]).toEqual([
      false,
      false,
      false,
      false,
    ]);
    expect(mayBeHome(account, rawFromText("/etc"))).toBe(false);
    expect(worktopOf(account, tuckedFolder(account.worktops[0]!))?.id).toBe("desktop");
  });
});
