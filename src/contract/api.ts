import { z } from "zod";
import {
  addDepotInput,
  browseInput,
  changeSignInInput,
  checksInput,
  type DepotsAnswers,
  depotInput,
  findInput,
  fromHomeInput,
  moveThingsInput,
  parcelDeleteInput,
  parcelInput,
  parcelLookInput,
  parcelRestoreInput,
  plugInput,
  proposeInput,
  removeDepotInput,
  renameParcelInput,
  sendInput,
} from "./depots";
import { type FrameAnswers, foldersInput } from "./folders";
import { endSessionsInput, type GuardAnswers } from "./guard";
import {
  addHomesInput,
  gatherInput,
  type HomesAnswers,
  putInput,
  retitleInput,
  setOutInput,
  splitInput,
  sweepInput,
  titlesInput,
} from "./homes";
import { type ReportJson, trial } from "./items";
import {
  againInput,
  cancelInput,
  emptyInput,
  entriesInput,
  entryInput,
  type LedgerAnswers,
  trashRestoreInput,
  undoInput,
} from "./ledger";
import { inProgramInput, type LooksAnswers, lookInput } from "./looks";
import { type QuietAnswers, quietApi } from "./quiet";
import { backupInput, keyInput, launcherInput, type SettingsAnswers, screenInput, useScreenInput } from "./settings";
import {
  archiveInput,
  clashInput,
  endProjectInput,
  giveInput,
  givenInput,
  inUseInput,
  letGoInput,
  lookedInput,
  noteInput,
  nowInput,
  type SittingAnswers,
  sittingInput,
  stayInput,
  thingInput,
  waitInput,
} from "./sitting";
import { findingInput, leaveOutInput, protectInput, type SurveyAnswers, settleInput } from "./survey";

const nothing = z.object({});
const worktop = z.enum(["desktop", "downloads"]);
const worktopInput = z.object({ worktop });
/** Every act and question that can be asked over HTTP and from the command line, by its path below /api, with what it takes. */
export const api = {
  "frame/frame": nothing,
  "frame/folders": foldersInput,
  "survey/survey": z.object({ worktop: worktop.optional() }),
  "survey/since": z.object({ mark: z.string().max(64), sheet: z.string().max(64).optional() }),
  "survey/refresh": nothing,
  "survey/settle": settleInput,
  "survey/families": worktopInput,
  "survey/family": thingInput,
  "survey/finding": findingInput,
  "survey/protect": protectInput,
  "survey/places": nothing,
  "survey/left-out": nothing,
  "survey/leave-out": leaveOutInput,
  "homes/list": nothing,
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
  "sitting/note": noteInput,
  "sitting/notes": nothing,
  "sitting/projects": nothing,
  "sitting/end-project": endProjectInput,
  "sitting/undecided": nothing,
  "sitting/now": nowInput,
  "sitting/in-use": inUseInput,
  "sitting/open": thingInput,
  "sitting/clash": clashInput,
  "sitting/give": giveInput,
  "sitting/given": givenInput,
  "sitting/thing": lookedInput,
  "sitting/end": sittingInput,
  "depots/list": nothing,
  "depots/parcels": nothing,
  "depots/add": addDepotInput,
  "depots/sign-in": changeSignInInput,
  "depots/remove": removeDepotInput,
  "depots/checks": checksInput,
  "depots/check-all": depotInput,
  "depots/send": sendInput,
  "depots/pause": parcelInput,
  "depots/cancel": parcelInput,
  "depots/rename": renameParcelInput,
  "depots/move": moveThingsInput,
  "depots/from-home": fromHomeInput,
  "depots/check": parcelInput,
  "depots/show": parcelInput,
  "depots/browse": browseInput,
  "depots/look": parcelLookInput,
  "depots/find": findInput,
  "depots/restore": parcelRestoreInput,
  "depots/delete": parcelDeleteInput,
  "depots/proposals": nothing,
  "depots/propose": proposeInput,
  "depots/fit": nothing,
  "depots/plug": plugInput,
  "looks/look": lookInput,
  "looks/program": thingInput,
  "looks/in-program": inProgramInput,
  ...quietApi,
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
  "settings/view": nothing,
  "settings/key": keyInput,
  "settings/screen": screenInput,
  "settings/use-screen": useScreenInput,
  "settings/forget-pictures": nothing,
  "settings/leave": z.object(trial),
  "guard/sessions": nothing,
  "guard/end": endSessionsInput,
  "jobs/cancel": cancelInput,
} as const;

/** What each of them answers. */
type Answers = FrameAnswers &
  LooksAnswers &
  SurveyAnswers &
  HomesAnswers &
  SittingAnswers &
  DepotsAnswers &
  QuietAnswers &
  LedgerAnswers &
  SettingsAnswers &
  GuardAnswers;

export type ApiPath = keyof typeof api;
export type ApiInput<P extends ApiPath> = z.input<(typeof api)[P]>;
export type ApiAnswer<P extends ApiPath> = Answers[P];
/** Those that answer the report of an act, and can be tried. */
export type ActPath = { [P in ApiPath]: Answers[P] extends ReportJson ? P : never }[ApiPath];
