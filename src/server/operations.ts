import type { z } from "zod";
import { type ApiAnswer, type ApiPath, api } from "@/contract/api";
import type { GatheringAnswer, HomeChoice, OverlookedAnswer } from "@/contract/homes";
import type { OverlookedView } from "@/contract/views";
import { shownPlace } from "@/core/ledger/step-type";
import { shownName } from "@/core/names/raw";
import { asProblem } from "@/core/problem";
import { addDepot, changeSignIn } from "./depots/add";
import { browse, find } from "./depots/browse";
import { check, checkDepot } from "./depots/check";
import { deleteParcel } from "./depots/delete";
import { fitParcels } from "./depots/fit";
import { collectFromHome } from "./depots/from-home";
import { listDepots, listParcels, showParcel } from "./depots/list";
import { lookInto } from "./depots/look";
import { moveThings, renameParcel } from "./depots/parcels";
import { plugDrive } from "./depots/plug";
import { listProposals, propose } from "./depots/propose";
import { removeDepot } from "./depots/remove";
import { restoreParcel } from "./depots/restore";
import { cancelSending, pauseSending, send } from "./depots/send";
import { setChecks } from "./depots/turns";
import type { Engine } from "./engine";
import { folders } from "./folders";
import { frameView } from "./frame";
import { endSessions, sessions } from "./guard/sessions";
import { addHomes } from "./homes/add";
import { finer } from "./homes/finer";
import { gather } from "./homes/gather";
import { gatherings } from "./homes/gatherings";
import { homes } from "./homes/homes";
import { overlooked } from "./homes/overlooked";
import { planOfHomes } from "./homes/plan";
import { suggestedHomes } from "./homes/prepare";
import { put } from "./homes/put";
import { setOut } from "./homes/set-out";
import { split } from "./homes/split";
import { sweep } from "./homes/sweep";
import { retitle, titles } from "./homes/titles";
import { ready } from "./homes/view";
import { emptying, emptyTrash } from "./ledger/empty";
import { later, ledgerList, stepsInWords } from "./ledger/list";
import { trashList } from "./ledger/trash-list";
import { restoreFromTrash } from "./ledger/trash-restore";
import { again, undo } from "./ledger/undo";
import { look } from "./looks/look";
import { forgetPictures } from "./looks/picture-cache";
import { inProgram, program } from "./looks/program";
import { operateFrom } from "./operate";
import { quietOperations } from "./quiet/operations";
import { useScreen } from "./screen/use";
import { backup } from "./settings/backup";
import { setKey } from "./settings/key";
import { launcher } from "./settings/launcher";
import { leave } from "./settings/leave";
import { setScreen } from "./settings/screen";
import { settingsView } from "./settings/view";
import { archive } from "./sitting/archive";
import { clash } from "./sitting/clash";
import { give, given } from "./sitting/give";
import { stillInUse } from "./sitting/in-use";
import { letGo } from "./sitting/let-go";
import { note, notes } from "./sitting/note";
import { sittingNow } from "./sitting/now";
import { openFolder } from "./sitting/open";
import { endProject, projects } from "./sitting/projects";
import { stay } from "./sitting/stay";
import { undecidedList } from "./sitting/undecided";
import { sittingEnd, thing } from "./sitting/view";
import { wait } from "./sitting/wait";
import { familiesOn, family } from "./survey/family";
import { itemById } from "./survey/items";
import { leaveOut, leftOutNow } from "./survey/left-out";
import { placesToMark, protect } from "./survey/protect";
import { settle } from "./survey/settle";
import { since } from "./survey/since";
import { findingInDetail, survey } from "./survey/survey";
import { surveyView } from "./survey/view";

type Operation<P extends ApiPath> = (engine: Engine, input: z.output<(typeof api)[P]>) => ApiAnswer<P> | Promise<ApiAnswer<P>>;

/** The one function behind each path of the API, for HTTP and the command line alike. */
const operations: { [P in ApiPath]: Operation<P> } = {
  "frame/frame": (engine) => frameView(engine),
  "frame/folders": folders,
  "survey/survey": (engine, input) => survey(engine, input),
  "survey/since": async (engine, { mark, sheet }) => since(engine, mark, await surveyView(engine, sheet)),
  "survey/refresh": async (engine) => {
    try {
      await engine.lookAgain("all");
    } catch (error) {
      // What was known before can still be asked about.
      if (!asProblem(error).code.startsWith("record-")) throw error;
    }
    return { unreadable: engine.unreadable, trouble: engine.trouble?.message };
  },
  "survey/settle": settle,
  "survey/families": (engine, input) => familiesOn(engine, input.worktop),
  "survey/family": (engine, input) => family(engine, input.item),
  "survey/finding": (engine, input) => findingInDetail(engine, input.finding),
  "survey/protect": protect,
  "survey/places": (engine) =>
    placesToMark(engine).map(({ folder, ...place }) => ({ ...place, folder: btoa(folder), path: shownName(folder) })),
  "survey/left-out": (engine) => leftOutNow(engine),
  "survey/leave-out": leaveOut,
  "homes/list": (engine) => homes(engine).map(({ id, title, files }): HomeChoice => ({ id, title, files })),
  "homes/put": put,
  "homes/sweep": sweep,
  "homes/titles": titles,
  "homes/retitle": retitle,
  "homes/add": addHomes,
  "homes/split": split,
  "homes/plan": (engine) => planOfHomes(engine),
  "homes/overlooked": async (engine) => groupsAnswered(engine, await overlooked(engine)),
  "homes/finer": async (engine) => groupsAnswered(engine, await finer(engine)),
  "homes/ready": (engine) => ready(engine),
  "homes/suggested": (engine) => suggestedHomes(engine),
  "homes/gather": gather,
  "homes/gatherings": async (engine) =>
    (await gatherings(engine)).map(
      ({ id, title, folder, at, things }): GatheringAnswer => ({
        id,
        title,
        place: shownPlace(folder, engine.account.root),
        when: engine.words().ago(at),
        things: things.map(({ item, label, from }) => ({ id: item, name: label, from: shownName(from) })),
      }),
    ),
  "homes/set-out": setOut,
  "sitting/stay": stay,
  "sitting/wait": wait,
  "sitting/archive": archive,
  "sitting/let-go": letGo,
  "sitting/note": note,
  "sitting/notes": (engine) => notes(engine),
  "sitting/projects": (engine) => projects(engine),
  "sitting/end-project": endProject,
  "sitting/undecided": (engine) => undecidedList(engine),
  "sitting/now": sittingNow,
  "sitting/in-use": stillInUse,
  "sitting/open": (engine, input) => openFolder(engine, input.item),
  "sitting/clash": clash,
  "sitting/give": (engine, input) => give(engine, input, (act, asked) => operate(engine, act, asked)),
  "sitting/given": given,
  "sitting/thing": (engine, input) => thing(engine, input.item, input.wait),
  "sitting/end": (engine, input) => sittingEnd(engine, input.sitting),
  "looks/look": look,
  "looks/program": program,
  "looks/in-program": inProgram,
  "depots/list": listDepots,
  "depots/parcels": listParcels,
  "depots/add": addDepot,
  "depots/sign-in": changeSignIn,
  "depots/remove": removeDepot,
  "depots/checks": setChecks,
  "depots/check-all": checkDepot,
  "depots/send": send,
  "depots/pause": pauseSending,
  "depots/cancel": cancelSending,
  "depots/rename": renameParcel,
  "depots/move": moveThings,
  "depots/from-home": collectFromHome,
  "depots/check": check,
  "depots/show": showParcel,
  "depots/browse": browse,
  "depots/look": lookInto,
  "depots/find": find,
  "depots/restore": restoreParcel,
  "depots/delete": deleteParcel,
  "depots/proposals": listProposals,
  "depots/propose": propose,
  "depots/fit": fitParcels,
  "depots/plug": plugDrive,
  ...quietOperations,
  "ledger/list": ledgerList,
  "ledger/steps": (engine, input) => stepsInWords(engine, input.entry),
  "ledger/later": (engine, input) => later(engine, input.entry),
  "ledger/undo": undo,
  "ledger/again": again,
  "ledger/trash": (engine) =>
    trashList(engine).map(({ id, label, original, deletedAt, identity }) => ({
      id,
      name: label,
      from: original ? shownName(original) : null,
      deletedAt: deletedAt === undefined ? null : new Date(deletedAt).toISOString(),
      bytes: identity.bytes,
    })),
  "ledger/restore": restoreFromTrash,
  "ledger/emptying": (engine) => emptying(engine),
  "ledger/empty": emptyTrash,
  "ledger/recover": async (engine) => ({ recovered: [...engine.recovered, ...(await engine.ledger.recover())] }),
  "settings/launcher": launcher,
  "settings/leave": leave,
  "settings/backup": backup,
  "settings/view": (engine) => settingsView(engine),
  "settings/key": setKey,
  "settings/screen": setScreen,
  "settings/use-screen": useScreen,
  "settings/forget-pictures": async (engine) => ({
    forgotten: await forgetPictures(engine.workers, engine.account.data),
  }),
  "guard/sessions": (engine) => sessions(engine),
  "guard/end": endSessions,
  "jobs/cancel": (engine, input) => ({ cancelled: engine.jobs.cancel(input.job) }),
};

const groupsAnswered = (engine: Engine, groups: OverlookedView[]): OverlookedAnswer[] =>
  groups.map(({ why, home, tiles, more }) => ({
    why,
    home: home.title,
    isNew: home.id === undefined,
    items: [...tiles.map(({ id }) => id), ...more].flatMap((id) => itemById(engine.db, id)?.path ?? []).map(shownName),
  }));

/** Checks what was asked against its contract and does it. */
export const operate = <P extends ApiPath>(engine: Engine, path: P, input: unknown): Promise<ApiAnswer<P>> =>
  operateFrom({ schemas: api, operations }, engine, path, input) as Promise<ApiAnswer<P>>;
