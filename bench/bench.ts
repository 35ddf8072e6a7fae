import fs from "node:fs";
import path from "node:path";
import { longLedgers, quietAndBack, sweepAThousand } from "./acts";
import { atLogin } from "./at-login";
import { toggleByCommand, verdictsDurable, whileBytesMove } from "./busy";
import { manyIcons } from "./desktop";
import { suggestions } from "./homes";
import { folder, median, type Row, root, rows } from "./measure";
import { checking, largeParcel, memoryOfALargeFile, parcelFarAway, parcelOfSmallFiles } from "./parcels";
import { atRest, manyFiles } from "./rest";
import { aSitting } from "./sitting";
import { straightened } from "./straighten";
import { findings, firstLook, identicalFiles, memoryOfAWalk, nowhereElseOfMany, walkAndAgain } from "./survey";

/**
 * Speed as ratios against an ordinary tool on the same tree in the same run. Prints a table after each, writes
 * bench/results/latest.json. Words: the figures to measure (P1 P3 P4 P5 P6 P9 P9-small P9-far P9-memory P9-check P10 P11 P13 P14 P15 P16 homes ledger first elsewhere login desktop P18 P20), else all.
 */
const figures: Record<string, () => Promise<void>> = {
  P1: walkAndAgain,
  P3: identicalFiles,
  P5: quietAndBack,
  P6: straightened,
  P10: memoryOfAWalk,
  P11: findings,
  P13: sweepAThousand,
  P14: toggleByCommand,
  P4: aSitting,
  P9: largeParcel,
  "P9-small": parcelOfSmallFiles,
  "P9-far": parcelFarAway,
  "P9-memory": memoryOfALargeFile,
  "P9-check": checking,
  P15: verdictsDurable,
  P16: whileBytesMove,
  homes: suggestions,
  ledger: longLedgers,
  first: firstLook,
  elsewhere: nowhereElseOfMany,
  login: atLogin,
  desktop: manyIcons,
  P18: atRest,
  P20: manyFiles,
};
const spread = (list: number[], unit: string, digits = 0) =>
  `${median(list).toFixed(digits)}${unit} (${Math.min(...list).toFixed(digits)}–${Math.max(...list).toFixed(digits)})`;

const told = ({ figure, ours, theirs, atMost, aim, unit = "ms" }: Row) => {
  const judged = theirs ? ours.map((mine, n) => mine / theirs[n]!) : ours;
  const measured = theirs ? "×" : ` ${unit}`;
  return {
    figure,
    ours: spread(ours, ` ${unit}`),
    against: theirs ? spread(theirs, " ms") : "",
    ratio: theirs ? spread(judged, "×", 2) : "",
    "at most": `${atMost}${measured}`,
    aim: `${aim}${measured}`,
    holds: median(judged) <= atMost,
  };
};

const wanted = process.argv.slice(2);
for (const [name, measure] of Object.entries(figures)) {
  if (wanted.length > 0 && !wanted.includes(name)) continue;
  console.log(`measuring ${name}`);
  const before = rows.length;
  await measure();
  console.table(rows.slice(before).map(told));
}
fs.rmSync(folder, { recursive: true, force: true });

fs.mkdirSync(path.join(root, "bench/results"), { recursive: true });
fs.writeFileSync(
  path.join(root, "bench/results/latest.json"),
  JSON.stringify({ at: new Date().toISOString(), rows, table: rows.map(told) }, null, 1),
);
