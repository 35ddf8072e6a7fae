import { expect, test } from "vitest";
import type { ThingView } from "@/contract/views";
import { asShown } from "./things";

const home = (id: string) => ({ id, title: id, why: "" });
const thing = (more: Partial<ThingView>) =>
  ({ id: "a", look: { form: "text", text: "as it was" }, homes: [], ...more }) as unknown as ThingView;

test("no home that has a key changes its place while a thing is looked at; new ones come after, and what is gone goes", () => {
  const before = thing({ homes: ["b", "c", "d"].map(home) });
  const now = thing({ homes: ["e", "d", "b"].map(home) });
  expect(asShown(before, now).homes.map(({ id }) => id)).toEqual(["b", "d", "e"]);
  expect(asShown(undefined, now).homes.map(({ id }) => id)).toEqual(["e", "d", "b"]);
});

test("what is drawn is drawn anew only where it changed, and nothing is passed over from under the eyes", () => {
  const before = thing({ facts: ["4 bytes"] });
  const same = asShown(before, thing({ facts: ["5 bytes"], inUse: "a program has it open" }));
  expect(same.look).toBe(before.look);
  expect(same).toMatchObject({ facts: ["5 bytes"], inUse: undefined });
  const other = thing({ look: { form: "text", text: "another" } as unknown as ThingView["look"] });
  expect(asShown(before, other).look).toBe(other.look);
});
