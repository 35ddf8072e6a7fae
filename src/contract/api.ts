import { z } from "zod";
import { addDepotInput, checkInput, parcelRestoreInput, removeDepotInput, sendInput } from "./depots";
import { endSessionsInput } from "./guard";
import { addHomesInput, gatherInput, putInput, retitleInput, setOutInput, splitInput, sweepInput, titlesInput } from "./homes";
import { againInput, cancelInput, emptyInput, entriesInput, entryInput, trashRestoreInput, undoInput } from "./ledger";
import { quietInput } from "./quiet";
import { backupInput, launcherInput } from "./settings";
import { archiveInput, giveInput, givenInput, letGoInput, sittingInput, stayInput, thingInput, waitInput } from "./sitting";
import { leaveOutInput, protectInput, settleInput } from "./survey";

const nothing = z.object({});
/** Every act and question that can be asked over HTTP and from the command line, by its path below /api, with what it takes. */
export const api = {
  "frame/frame": nothing,
  "survey/survey": z.object({ worktop: z.enum(["desktop", "downloads"]).optional() }),
  "survey/refresh": nothing,
  "survey/settle": settleInput,
  "survey/family": thingInput,
  "survey/protect": protectInput,
  "survey/places": nothing,
  "survey/left-out": nothing,
  "survey/leave-out": leaveOutInput,
  "homes/put": putInput,
  "homes/sweep": sweepInput,
  "homes/titles": titlesInput,
  "homes/retitle": retitleInput,
  "homes/add": addHomesInput,
  "homes/split": splitInput,
  "homes/plan": nothing,
  "homes/overlooked": nothing,
  "homes/gather": gatherInput,
  "homes/gatherings": nothing,
  "homes/suggested": nothing,
  "homes/ready": nothing,
  "homes/finer": nothing,
  "homes/set-out": setOutInput,
  "sitting/stay": stayInput,
  "sitting/wait": waitInput,
  "sitting/archive": archiveInput,
  "sitting/let-go": letGoInput,
  "sitting/give": giveInput,
  "sitting/given": givenInput,
  "sitting/thing": thingInput,
  "sitting/end": sittingInput,
  "depots/list": nothing,
  "depots/add": addDepotInput,
  "depots/remove": removeDepotInput,
  "depots/send": sendInput,
  "depots/check": checkInput,
  "depots/show": checkInput,
  "depots/restore": parcelRestoreInput,
  "quiet/show": quietInput,
  "quiet/status": nothing,
  "ledger/list": entriesInput,
  "ledger/undo": undoInput,
  "ledger/again": againInput,
  "ledger/steps": entryInput,
  "ledger/later": entryInput,
  "ledger/trash": nothing,
  "ledger/restore": trashRestoreInput,
  "ledger/emptying": nothing,
  "ledger/empty": emptyInput,
  "ledger/recover": nothing,
  "settings/launcher": launcherInput,
  "settings/backup": backupInput,
  "guard/sessions": nothing,
  "guard/end": endSessionsInput,
  "jobs/cancel": cancelInput,
} as const;

export type ApiPath = keyof typeof api;
export type ApiInput<P extends ApiPath> = z.input<(typeof api)[P]>;
