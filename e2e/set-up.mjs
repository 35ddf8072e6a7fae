import path from "node:path";
import { bundle, root } from "../bin/setup.mjs";

/**
 * Before all tests: what each worker starts is bundled, beside the packages that it needs, and nowhere near what people run.
 */
export default async function setUp() {
  process.env.VUOTO_E2E_APPLICATION = path.join(root, "node_modules/.cache/vuoto-e2e");
  await bundle({ application: "e2e/application.ts" }, { outdir: process.env.VUOTO_E2E_APPLICATION });
}
