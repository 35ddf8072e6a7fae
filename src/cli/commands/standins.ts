import type { Command } from "commander";
import { Problem } from "@/core/problem";
import { openAccount } from "@/server/account";
import { cloudFileOf } from "@/server/depots/standins";
import type { CloudSettings } from "@/standins/cloud/cloud";
import { openCloud } from "@/standins/cloud/cloud";
import { readCloudFile, writeCloudFile } from "@/standins/cloud/cloud-file";
import { faultKinds, readFault } from "@/standins/cloud/faults";
import type { Given } from "../given";
import { out } from "../print";

interface CloudOptions {
  quota?: string;
  latency?: string;
  rate?: string;
  user?: string;
  fail?: string[];
  down?: boolean;
  serve?: string;
  port?: string;
}

const number = (text: string): number => {
  if (!/^\d+$/.test(text)) throw new Problem("bad-words", { detail: `${text} is no number.` });
  return Number(text);
};

const orNone = (text: string): number | null => (text === "none" ? null : number(text));

function settingsGiven(o: CloudOptions): Partial<CloudSettings> {
  for (const fault of o.fail ?? [])
    if (!readFault(fault))
      throw new Problem("bad-words", {
        detail: `${fault} is no fault: METHOD=FAULT/EVERY, with a status or one of ${Object.keys(faultKinds).join(", ")}.`,
      });
  return {
    ...(o.quota === undefined ? {} : { quota: orNone(o.quota) }),
    ...(o.latency === undefined ? {} : { latency: number(o.latency) }),
    ...(o.rate === undefined ? {} : { rate: orNone(o.rate) }),
    ...(o.user === undefined ? {} : { user: o.user }),
    fail: o.fail ?? [],
    down: o.down === true,
  };
}

/** The commands for the stand-ins that come with the sample account: a cloud, and drives. */
export function standinCommands(program: Command, given: Given): void {
  const standin = program
    .command("standin")
    .description("the stand-ins of the sample account: a cloud that can fail, and drives");
  standin
    .command("cloud")
    .option("--quota <bytes>", "how much it takes in all, or none")
    .option("--latency <ms>", "how long it waits before each answer")
    .option("--rate <bytes>", "bytes a second in each direction, or none")
    .option("--user <name>", "whom it lets sign in")
    .option("--fail <fault...>", "what goes wrong, such as PUT=503/5: each fifth file is refused; without it nothing does")
    .option("--down", "it does not answer at all")
    .option("--serve <folder>", "be one, over that folder, until it is stopped")
    .option("--port <n>")
    .description("how the stand-in for a cloud behaves from now on")
    .action(async (o: CloudOptions) => {
      const change = settingsGiven(o);
      if (o.serve !== undefined) {
        const cloud = await openCloud(o.serve, { port: given.port(o.port), settings: change });
        out(`${cloud.url}, signed in to as ${cloud.settings.user} with the password ${cloud.settings.password}`);
        await new Promise((ended) => process.once("SIGINT", ended).once("SIGTERM", ended));
        await cloud.close();
        return;
      }
      const account = openAccount(given.place());
      if (!account.sample) throw new Problem("bad-words", { detail: "Only the sample account has one; --serve makes another." });
      const file = cloudFileOf(account);
      const { port, settings } = readCloudFile(file);
      writeCloudFile(file, { port, settings: { ...settings, ...change } });
      out(port === undefined ? "Set. It starts with the demo." : `http://127.0.0.1:${port}/ is set.`);
    });
  standin
    .command("drive")
    .argument("<name>")
    .argument("<in|out>")
    .description("plug a sample drive in, or pull it out, whatever is under way on it")
    .action((drive: string, way: string) => {
      if (way !== "in" && way !== "out") throw new Problem("bad-words", { detail: "Say in or out." });
      return given.show("depots/plug", { drive, in: way === "in" }, (answer) => out(answer.words));
    });
}
