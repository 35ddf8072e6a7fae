import fs from "node:fs";
import path from "node:path";
import { rawFromText } from "@/core/names/raw";
import { learnBelonging } from "@/server/homes/belonging";
import { sweepView } from "@/server/homes/view";
import { openEngine } from "@/server/opening";
import { folder, type Row, rows, runs, timed } from "./measure";

const matters = ["tide", "ring", "nest", "gauge", "letter", "invoice", "track", "survey", "cliff", "report"];
const places = ["north", "south", "harbour", "ledge", "stack", "skarn", "point", "mole", "quay", "reef"];

/** Homes for 2,000 things, learned from 10,000 files in a hundred homes; and how long the learning takes. */
export async function suggestions(): Promise<void> {
  const account = path.join(folder, "suggestions");
  for (const worktop of ["Desktop", "Documents"]) fs.mkdirSync(path.join(account, worktop), { recursive: true });
  const write = (place: string, home: number, n: number) => {
    const [matter, where] = [matters[home % 10]!, places[Math.floor(home / 10)]!];
    const text = `${matter},${where},count\n${n},${n % 7},${home}\n`;
    fs.writeFileSync(path.join(account, place, `${matter}-${where}-${n}.csv`), text);
  };
  for (let home = 0; home < 100; home++) {
    const place = `Documents/${matters[home % 10]}/${places[Math.floor(home / 10)]}`;
    fs.mkdirSync(path.join(account, place), { recursive: true });
    for (let n = 0; n < 100; n++) write(place, home, n);
  }
  for (let n = 0; n < 2000; n++) write("Desktop", n % 100, 1000 + n);
  const engine = await openEngine({ root: rawFromText(account), data: `${account}-data` });
  await engine.lookAgain("all");
  const shown: Row = { figure: "homes for 2,000 things, learned from 10,000 files", ours: [], atMost: 1000, aim: 300 };
  const learned: Row = { figure: "learning from 10,000 files, in a thread", ours: [], atMost: 10_000, aim: 3000 };
  for (let n = 0; n < runs; n++) {
    learned.ours.push(
      await timed(async () => {
        engine.belonging = await learnBelonging(engine);
      }),
    );
    shown.ours.push(await timed(() => sweepView(engine)));
  }
  const ready = (await sweepView(engine)).ready.reduce((sum, home) => sum + home.count, 0);
  if (ready < 1500) throw new Error(`only ${ready} are sure`);
  await engine.close();
  rows.push(shown, learned);
}
