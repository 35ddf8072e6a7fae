import { quietApi } from "@/contract/quiet";
import type { Engine } from "../engine";
import { makeHollow, openHollow, repairHollow, seenHollow } from "../hollow/acts";
import { listHollows } from "../hollow/hollows";
import { exportLayout, importLayout } from "../layouts/document";
import { bringLayout, compareLayout, keepLayout, listLayouts, removeLayout } from "../layouts/layouts";
import { straighten } from "../straighten/straighten";
import { since } from "../survey/since";
import { longer } from "./longer";
import { addOccasion, changeOccasion, occasionList } from "./occasions";
import { place } from "./place";
import { bringBack, hide, quiet } from "./quiet";
import { askedStatus, shownNow } from "./status";
import { quietView } from "./view";

export const quietOperations = {
  "quiet/show": quiet,
  "quiet/hide": hide,
  "quiet/bring-back": bringBack,
  "quiet/status": (engine: Engine) => askedStatus(engine),
  "quiet/shown": (engine: Engine) => shownNow(engine),
  "quiet/since": (engine: Engine, { mark }: { mark: string }) => since(engine, mark, quietView(engine)),
  "quiet/occasions": (engine: Engine) => occasionList(engine),
  "quiet/add-occasion": addOccasion,
  "quiet/occasion": changeOccasion,
  "quiet/longer": longer,
  "quiet/place": place,
  "quiet/straighten": straighten,
  "quiet/hollows": (engine: Engine) => listHollows(engine),
  "quiet/make-hollow": makeHollow,
  "quiet/seen-hollow": seenHollow,
  "quiet/repair-hollow": repairHollow,
  "quiet/open-hollow": openHollow,
  "quiet/layouts": (engine: Engine) => listLayouts(engine),
  "quiet/keep-layout": keepLayout,
  "quiet/compare-layout": compareLayout,
  "quiet/bring-layout": bringLayout,
  "quiet/export-layout": exportLayout,
  "quiet/import-layout": importLayout,
  "quiet/remove-layout": removeLayout,
};

/** What can be asked without all the rest. */
export const quietTable = { schemas: quietApi, operations: quietOperations };
