import { describe, expect, test } from "vitest";
import { rawFromText } from "../names/raw";
import type { CopyStep } from "./steps/copy";
import { planVersion, readStoredStep } from "./stored-step";

const read = (version: number, step: unknown) => readStoredStep(version, JSON.stringify(step));

describe("a stored step", () => {
  test("of the first version kept a small file as its text", () => {
    expect(read(1, { type: "write", file: "/h/a", before: null, after: "tide · 7 m" })).toEqual({
      type: "write",
      file: "/h/a",
      before: null,
      // A byte string: two bytes of UTF-8 for the middle dot.
      after: { content: "tide \u00c2\u00b7 7 m" },
    });
  });
  test("of the second version knew one part of the screen", () => {
    const [from, to] = [
      { level: "everything", since: 0, hidden: [] },
      { level: "bare", since: 7, hidden: ["a"] },
    ];
    const more = { kinds: [], apart: [], despite: [], along: false, until: null };
    const now = { type: "screen", part: "shown", from: { ...from, ...more }, to: { ...to, ...more } };
    for (const version of [1, 2]) expect(read(version, { type: "show", from, to })).toEqual(now);
    expect(read(3, { type: "screen", part: "shown", from, to })).toEqual(now);
    expect(read(planVersion, now)).toEqual(now);
    expect(() => read(planVersion, { type: "screen", part: "shown", from, to })).toThrow();
    expect(() => read(planVersion, { type: "show", from, to })).toThrow();
  });
  test("of the third version named what lies in a parcel by its place on this computer", () => {
    const file = { rel: "a", type: "file", mode: 0o644, mtimeNs: "1", bytes: 3, sha256: "0" };
    const folder = { rel: "", type: "folder", mode: 0o755, mtimeNs: "1", bytes: 0 };
    // A thing called data, in a depot below a folder called data; a name in UTF-8.
    const bag = "/data/disk/Season \u00c3\u00bc";
    const tree = [
      folder,
      { ...file, source: `${bag}/data/data/\u00c3\u00bc` },
      { ...file, rel: "b", source: `${bag}/data/data/b` },
    ];
    const copy = read(3, { type: "copy", item: "i", to: "/h/x", tree }) as CopyStep;
    const place = `${copy.parcel.lay}/${copy.parcel.name}`;
    expect(copy.tree.map(({ payload }) => payload && `${place}/${rawFromText(payload)}`)).toEqual([
      undefined,
      `${bag}/data/data/\u00c3\u00bc`,
      `${bag}/data/data/b`,
    ]);
    expect(copy.tree.some((entry) => "source" in entry)).toBe(false);
    const identity = { type: "folder", ino: "1", bytes: 0, mtimeNs: "1" };
    const erase = { type: "erase", trash: "/t", name: "x", info: "", identity };
    expect(read(3, erase)).toEqual(erase);
    expect(read(3, { ...erase, copy: tree })).toEqual({ ...erase, copy: { parcel: copy.parcel, tree: copy.tree } });
    const send = { type: "send", parcel: "p", bag: "B", title: "B", madeAt: "", things: [] };
    expect(read(3, { ...send, depotId: "d", depot: "/mnt/Disk" })).toEqual({ ...send, depot: "d", depotTitle: "Disk" });
  });
  test("of a version that is not known yet is not guessed at", () => {
    for (const version of [0, planVersion + 1]) expect(() => read(version, { type: "make-folder", folder: "/h" })).toThrow();
  });
  test("that was tampered with is none", () => {
    expect(() => read(planVersion, { type: "make-folder", folder: "/h\u2028" })).toThrow();
    expect(() => read(planVersion, { type: "toString", folder: "/h" })).toThrow();
    expect(() => read(planVersion, { type: "screen", part: "size", from: { level: "bare" }, to: {} })).toThrow();
    expect(() => read(planVersion, null)).toThrow();
  });
});
