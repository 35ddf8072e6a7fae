import type { FrameView } from "@/contract/views";
import { nameOf, shownName } from "@/core/names/raw";
import { parcelsWaiting } from "./depots/depots";
import { sendingRow } from "./depots/sending-row";
import type { Engine } from "./engine";
import { cookieName } from "./guard/guard";
import { unnamedFrame } from "./guard/unnamed";
import { homeCount } from "./homes/view";
import { undoOf } from "./ledger/view";
import { endingSoon } from "./quiet/longer";
import { quietNow } from "./quiet/quiet";
import { sharingView } from "./quiet/sharing";
import { keysNow } from "./settings/key";
import { undecided } from "./sitting/pile";
import { thingsOn } from "./survey/items";

/** What stands on every view: the course with its counts, and the foot. */
export function frameView(engine: Engine): FrameView {
  const frame = namedFrame(engine);
  return frame.sharing ? unnamedFrame(frame) : frame;
}

function namedFrame(engine: Engine): FrameView {
  const after = engine.events.last;
  const words = engine.words();
  const { level, outOfSight, unknown, arrived, believed } = quietNow(engine);
  const away = outOfSight.length + unknown.length;
  const ending = endingSoon(engine);
  const lying = engine.account.worktops.reduce((sum, w) => sum + thingsOn(engine.db, w.id).length, 0);
  const last = engine.ledger.entries.last();
  const latest = engine.ledger.latest();
  const parcels = parcelsWaiting(engine);
  return {
    words: { ...engine.wordsOf, now: engine.now() },
    keys: keysNow(engine),
    after,
    stream: cookieName(),
    account: shownName(nameOf(engine.account.root)),
    counts: {
      survey: words.count(lying),
      homes: words.count(homeCount(engine)),
      sitting: words.count(undecided(engine).length),
      depots: parcels.length > 0 ? words.count(parcels.length) : "",
      quiet: level !== "everything" ? level : away > 0 ? `${words.count(away)} out of sight` : "off",
    },
    last: last && {
      words: last.words,
      when: words.ago(last.at),
      again: engine.ledger.entries.lastUndone() !== undefined,
      undo: latest && { ...undoOf(engine, latest.id), other: latest.id === last.id ? undefined : latest.words },
    },
    waiting: parcels.reduce((sum, { parcel, items }) => sum + (sendingRow(engine.db, parcel.id) ? 0 : items.length), 0),
    outOfSight: away,
    believed,
    endsSoon: ending && { title: ending.occasion?.title, at: words.clock(ending.at) },
    sharing: sharingView(engine, away),
    arrived,
    level,
    jobs: engine.jobs.list(),
    recovered: [
      ...engine.recovered,
      ...(engine.trouble ? [`What lies there could not be looked at: ${engine.trouble.message}`] : []),
    ],
  };
}
