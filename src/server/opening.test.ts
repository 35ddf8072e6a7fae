import { afterEach, expect, test, vi } from "vitest";
import { makeRandomAccount } from "../../fixtures/accounts";
import { makePlace } from "../../fixtures/engine";
import { takeLock } from "./db/lock";
import { theEngine } from "./opening";

afterEach(() => vi.unstubAllEnvs());

test("an opening that failed is tried again when somebody asks the next time", async () => {
  const place = makePlace((root) => void makeRandomAccount(root, 4, 3));
  await (await place.open()).close();
  vi.stubEnv("VUOTO_ACCOUNT", btoa(place.root));
  vi.stubEnv("VUOTO_DATA", place.data);
  const other = takeLock(place.data)!;
  await expect(theEngine()).rejects.toMatchObject({ code: "account-busy" });
  await expect(theEngine()).rejects.toMatchObject({ code: "account-busy" });
  other.release();
  const engine = await theEngine();
  expect(engine.account.root).toBe(place.root);
  expect(await theEngine()).toBe(engine);
  await engine.close();
  place.remove();
});
