import { expect, test } from "vitest";
import { mayPass, waitAgain } from "./again";

test("what may pass is tried again after waits that double, five minutes at most", () => {
  expect([0, 1, 2, 5].map((tries) => waitAgain(tries, {}))).toEqual([1, 2, 4, 32]);
  expect(waitAgain(20, {})).toBe(300);
  expect(waitAgain(5000, {})).toBe(300);
});

test("who asks to wait is waited for, an hour at most, and never less than without", () => {
  expect(waitAgain(0, { waitSeconds: 40 })).toBe(40);
  expect(waitAgain(8, { waitSeconds: 2 })).toBe(256);
  expect(waitAgain(0, { waitSeconds: 90_000 })).toBe(3600);
});

test("only what lies with the way or the other side's moment passes", () => {
  expect(mayPass("depot-gone")).toBe(true);
  expect(mayPass("depot-failing")).toBe(true);
  for (const code of ["sign-in-refused", "no-space", "depot-refuses", "depot-keeps-not", "certificate-changed"] as const)
    expect(mayPass(code), code).toBe(false);
});
