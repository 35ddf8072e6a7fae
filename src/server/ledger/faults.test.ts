import { afterEach, describe, expect, test } from "vitest";
import { acts, actWithFault, changesSince, halfErased, leftovers } from "../../../fixtures/acts";
import type { Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { undo } from "./undo";

/** What a system call can answer. */
const codes = ["ENOSPC", "EROFS", "EACCES", "EXDEV", "ENOENT", "EEXIST", "EMFILE", "EIO", "EBUSY"];

let place: Place | undefined;
let engine: Engine | undefined;
afterEach(async () => {
  await engine?.close();
  engine = undefined;
  place?.remove();
});

/** Calls tried in the short form. */
const fewest = 5;
const long = process.env.VUOTO_TORTURE !== undefined;

/**
 * Each system call of an act in turn fails, with each code in turn; the short form takes some of them. Whatever happens:
 * the act says it, nothing is half done, and undoing everything gives back what was there.
 */
describe("each system call in turn fails", () => {
  test.each(Object.keys(acts))(
    "%s",
    async (name) => {
      const whole = await actWithFault(name, { at: 0, how: { code: "EIO" }, only: "any" });
      whole.place.remove();
      expect(whole.count).toBeGreaterThan(10);
      const step = long ? 1 : Math.max(1, Math.floor(whole.count / fewest));
      let tried = 0;
      let refusedIn = 0;
      for (let at = Math.ceil(step / 2); at <= whole.count; at += step) {
        const code = codes[(long ? at : 2 * tried) % codes.length]!;
        const made = await actWithFault(name, { at, how: { code }, only: "any" });
        place = made.place;
        tried++;
        const words = `${code} at call ${at}`;
        if (made.refused.length > 0) refusedIn++;
        for (const { why, code: said } of made.refused) {
          expect(why, words).toMatch(/\.$/);
          expect(said, `${words}: ${why}`).not.toBe("unexpected");
        }
        engine = await place.open();
        await acts[name]!.tidy?.(engine, place.folder);
        expect(engine.db.prepare("SELECT count(*) FROM entry WHERE state = 'running'").pluck().get(), words).toBe(0);
        expect(leftovers(place.folder), words).toEqual([]);
        if (acts[name]!.destroys) expect(halfErased(made.start, place.tree()), words).toEqual([]);
        else if (engine.db.prepare("SELECT 1 FROM entry WHERE target = id AND state = 'done'").get()) {
          const back = await undo(engine, { entry: "all" });
          expect(back.refused, words).toEqual([]);
        }
        // Everything before the act is undone too: the account is as it was made.
        const lines = (acts[name]!.destroys ? [] : changesSince(whole.made, place)).filter(
          (line) => !line.startsWith("mtimeNs") && !line.startsWith("new: .local"),
        );
        expect(lines, words).toEqual([]);
        await engine.close();
        engine = undefined;
        place.remove();
        place = undefined;
      }
      expect(tried).toBeGreaterThanOrEqual(fewest);
      // Most calls of emptying only look for copies: a few tries may all be survived without a refusal.
      if (long || !acts[name]!.destroys) expect(refusedIn).toBeGreaterThan(0);
    },
    // Every call of the longest act takes most of an hour.
    long ? 7_200_000 : 1_200_000,
  );
});
