import { execFileSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { setTimeout as pass } from "node:timers/promises";
import { expect, test } from "vitest";
import { rawFromText } from "@/core/names/raw";
import { pdf } from "../../../fixtures/pdf";
import { LookingApart } from "./looking-apart";

test("what comes late because the machine is busy is waited for: only work of its own is bounded", async () => {
  const folder = fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-looks-"));
  const file = path.join(folder, "log.pdf");
  fs.writeFileSync(file, pdf("Low water at six"));
  const looking = new LookingApart(4000);
  try {
    const drawn = looking.draw(rawFromText(file), { page: { n: 1, width: 1000 } }, "log.pdf");
    const [child] = execFileSync("pgrep", ["-P", String(process.pid), "-f", "look.mjs"], { encoding: "utf8" }).split("\n");
    // It is given no processor for longer than it may work.
    process.kill(Number(child), "SIGSTOP");
    await pass(4500);
    process.kill(Number(child), "SIGCONT");
    expect((await drawn).length).toBeGreaterThan(1000);
  } finally {
    looking.end();
    fs.rmSync(folder, { recursive: true });
  }
});
