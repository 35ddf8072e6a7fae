/**
 * What can go wrong, each with a stable code and a sentence a person can act on: what happened, what was not done, what
 * to do. Crosses HTTP as problem details (RFC 9457) and the command line as text.
 */
export type ProblemCode = keyof typeof sentences;

export interface ProblemFacts {
  /** The thing, as shown. */
  name?: string;
  /** The folder, home, depot or address, as shown. */
  place?: string;
  /** More, in words: another name, a number, an entry. */
  detail?: string;
  /** Seconds that whoever refused asks to wait. */
  waitSeconds?: number;
}

interface Sentence {
  status: number;
  title: (f: ProblemFacts) => string;
  remedy: string;
}

const it = (f: ProblemFacts) => f.name || "This thing";
const there = (f: ProblemFacts) => f.place ?? "that folder";

const sentences = {
  vanished: {
    status: 409,
    title: (f) => `${it(f)} is no longer there.`,
    remedy: "Nothing was done with it. Look at the survey again.",
  },
  changed: {
    status: 409,
    title: (f) => `${it(f)} has changed since you saw it${f.detail ? ` (${f.detail})` : ""}.`,
    remedy: "It was left alone. Look at it again, then decide.",
  },
  "in-use": {
    status: 409,
    title: (f) => `${it(f)} is in use${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "It was left alone. It comes up again when no program has it open.",
  },
  "name-taken": {
    status: 409,
    title: (f) => `${f.place ? `${f.place} already holds` : "There is already"} something called ${it(f)}.`,
    remedy: "Nothing was replaced. Give one of the two another name.",
  },
  "no-space": {
    status: 507,
    title: (f) => `There is no room left in ${there(f)}.`,
    remedy: "Nothing was lost. Make room there, then try again.",
  },
  "path-too-long": {
    status: 409,
    title: (f) => `${it(f)} lies too deep, or has too long a name, for ${there(f)}.`,
    remedy: "It stays where it lies. Give it, or the folders that it is in, shorter names.",
  },
  "read-only": {
    status: 409,
    title: (f) => `${there(f)} can only be read.`,
    remedy: "Nothing was changed. Choose another place, or make it writable.",
  },
  "no-permission": {
    status: 403,
    title: (f) => `You may not change ${it(f)}${f.place ? ` in ${f.place}` : ""}.`,
    remedy: "It was left alone. Change its permissions, then try again.",
  },
  "too-many-open": {
    status: 503,
    title: () => "Too many files are open on this computer.",
    remedy: "Close some programs, then try again.",
  },
  "device-busy": { status: 409, title: (f) => `${it(f)} is held by the system.`, remedy: "It was left alone. Try again later." },
  "disk-error": {
    status: 500,
    title: (f) => `The disk reported an error with ${it(f)}${f.detail ? ` (${f.detail})` : ""}.`,
    remedy: "It was left where it is. Check the disk before you go on.",
  },
  "out-of-bounds": {
    status: 403,
    title: (f) => `${it(f)} lies outside your worktops, homes and depots.`,
    remedy: "Vuoto does not write there.",
  },
  "no-answer": {
    status: 503,
    title: (f) => `What is mounted at ${there(f)} does not answer.`,
    remedy: "Nothing was done there. It is asked again by itself; look whether the other computer is on.",
  },
  "link-on-the-way": {
    status: 409,
    title: (f) => `A folder on the way to ${it(f)} is a link or not a folder${f.place ? `: ${f.place}` : ""}.`,
    remedy: "It was left alone, because a link could lead anywhere.",
  },
  "not-empty": { status: 409, title: (f) => `The folder ${it(f)} is not empty.`, remedy: "It was left where it is." },
  "special-file": {
    status: 409,
    title: (f) => `${it(f)} is no file or folder but a socket, pipe or device.`,
    remedy: "It was left alone.",
  },
  "would-lose": {
    status: 409,
    title: (f) => `${it(f)} carries rights that only the system may give, and would lose them in ${there(f)}.`,
    remedy: "It was left where it is, whole. Move it as the system's administrator, or leave it there.",
  },
  "on-its-way": {
    status: 409,
    title: (f) => `${it(f)} is on its way just now${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "It was left alone. Wait until that is done, or cancel it.",
  },
  "cannot-cross": {
    status: 409,
    title: (f) => `${it(f)} could not be moved to ${there(f)} as a whole.`,
    remedy: "It was left where it is.",
  },
  "unknown-item": {
    status: 404,
    title: (f) => `${it(f)} is not on your worktops.`,
    remedy: "Look at the survey for what lies there.",
  },
  "proof-gone": {
    status: 409,
    title: (f) => `${it(f)} is not let go: ${f.detail ?? "what was found is no longer so"}.`,
    remedy: "It was left as it is. Look at the survey again.",
  },
  "no-protection": {
    status: 400,
    title: (f) => `${there(f)} is, holds, or lies in a folder that collects what may be lost.`,
    remedy: "Choose a folder of copies: on another disk, or one that a backup or a synchronisation takes along.",
  },
  "unknown-home": {
    status: 404,
    title: (f) => `There is no home called ${there(f)}.`,
    remedy: "Choose a home from the list, or make one.",
  },
  "home-gone": {
    status: 409,
    title: (f) => `The home ${there(f)} is no longer there.`,
    remedy: "Nothing was moved. Choose another home, or make it again.",
  },
  "bad-key": {
    status: 400,
    title: (f) => `${f.name ? `“${f.name}”` : "That"} cannot be the key${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "A key is one character that no other command has, and no digit: these are the homes by their numbers.",
  },
  "bad-pattern": {
    status: 400,
    title: (f) => `${it(f)} is no pattern for titles.`,
    remedy: "In braces it can say name, short, date, kind and number, such as {date} {short}.",
  },
  "bad-name": {
    status: 400,
    title: (f) => `${it(f)} cannot be a name.`,
    remedy: "A name has at most 255 bytes and no slash, and is not empty.",
  },
  "unknown-gathering": {
    status: 404,
    title: (f) => (f.name ? `No gathering called ${f.name} has anything left in its folder.` : "Nothing is gathered."),
    remedy: "Nothing was moved. It is looked for on the worktops and in the homes only; put its folder back there.",
  },
  "unknown-depot": {
    status: 404,
    title: (f) => `There is no depot called ${there(f)}.`,
    remedy: "Add it in depots, or choose another.",
  },
  "depot-gone": {
    status: 409,
    title: (f) => `The depot ${there(f)} cannot be reached${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "Nothing was let go, and the originals stay. What is on its way goes on when the depot is in reach again.",
  },
  "asks-drive": {
    status: 409,
    title: (f) => `${there(f)} has the mark of the depot ${it(f)}, and is another drive.`,
    remedy: "It may be a copy of it. Say that it takes its place, if you want that; nothing was written.",
  },
  "depot-failing": {
    status: 502,
    title: (f) => `${there(f)} could not do it${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "Nothing was lost. It may be over soon. What is on its way is tried again by itself; anything else, try again.",
  },
  "depot-refuses": {
    status: 403,
    title: (f) => `${there(f)} does not allow it${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "Nothing was lost. Ask whoever runs it, or choose another depot.",
  },
  "sign-in-needed": {
    status: 401,
    title: (f) => `The sign-in for ${there(f)} is not known here.`,
    remedy: "Give it in depots, or with vuoto depot sign-in. Nothing was sent.",
  },
  "sign-in-refused": {
    status: 401,
    title: (f) => `${there(f)} does not accept the sign-in.`,
    remedy: "Nothing was lost. Change the sign-in in depots, or with vuoto depot sign-in, then go on.",
  },
  "certificate-unknown": {
    status: 409,
    title: (f) => `This computer cannot tell whether ${there(f)} is who it says it is: ${f.detail}.`,
    remedy:
      "Nothing was sent, no sign-in either. Compare the SHA-256 with what its owner says; accept it only where they are the same.",
  },
  "certificate-changed": {
    status: 409,
    title: (f) => `${there(f)} shows another certificate than the one that you accepted: ${f.detail}.`,
    remedy:
      "Nothing was sent, no sign-in either. Ask its owner whether it was renewed; accept it only where the SHA-256 is theirs.",
  },
  "depot-keeps-not": {
    status: 502,
    title: (f) => `${there(f)} gave back something else than it was given: ${it(f)}, ${f.detail}.`,
    remedy: "Nothing counts as arrived, and the originals stay where they lie. Look at that depot before you trust it with more.",
  },
  "depot-unsuitable": {
    status: 400,
    title: (f) => `${there(f)} cannot be a depot${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "Choose a folder that exists, outside your worktops and homes.",
  },
  "folder-closed": {
    status: 409,
    title: (f) => `The folder ${it(f)} cannot be opened${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "It was left as it is; it can still be decided upon as a whole.",
  },
  "unknown-project": {
    status: 404,
    title: (f) => `There is no project called ${it(f)} under way.`,
    remedy: "Nothing was done. vuoto project list shows those there are.",
  },
  "no-notes": {
    status: 400,
    title: () => "It is not said yet in which home your notes lie.",
    remedy: "Choose it once: in the window with the first note, or by command with --home.",
  },
  "no-note": {
    status: 409,
    title: (f) => `${it(f)} cannot become a note${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "It was left as it is.",
  },
  "no-program": {
    status: 409,
    title: (f) => `${it(f)} is not opened in a program${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "It is looked at here. To open it, use the computer's own ways.",
  },
  decided: {
    status: 409,
    title: (f) => `${it(f)} was decided already, in another window or by command: ${f.detail}.`,
    remedy: "It was left so. The ledger shows it, with its undo.",
  },
  "name-there": {
    status: 409,
    title: (f) => `Something called ${it(f)} lies in ${there(f)} already.`,
    remedy: "Nothing was moved. Keep both, give this one another title, or let it go.",
  },
  "unknown-parcel": {
    status: 404,
    title: (f) => `There is no parcel called ${it(f)}.`,
    remedy: "Look at depots for the parcels there are.",
  },
  "unknown-proposal": {
    status: 404,
    title: (f) => `Nothing called ${it(f)} is proposed.`,
    remedy: "Nothing was done. vuoto parcel propose lists what could go.",
  },
  "not-collected": {
    status: 409,
    title: (f) => `${it(f)} is in no parcel that is still to be sent.`,
    remedy: "It was left as it is. Archive it, and it is in one.",
  },
  "not-near": {
    status: 409,
    title: (f) => `${it(f)} lies in ${there(f)}, and cannot be looked at from here.`,
    remedy: "Bring it back to look at it.",
  },
  "not-in-parcel": {
    status: 404,
    title: (f) => `The parcel ${f.place ?? ""} holds nothing called ${it(f)}.`,
    remedy: "Look into it for the names there are. The rest was brought back.",
  },
  "parcel-deleted": {
    status: 410,
    title: (f) => `The parcel ${it(f)} was deleted in its depot.`,
    remedy: "It cannot be brought back from there.",
  },
  "only-copy": {
    status: 409,
    title: (f) => `${it(f)} is no longer where it was: what was sent of it in ${f.place ?? "the parcel"} may be the only copy.`,
    remedy: "Nothing was taken away. Let the parcel arrive; it can be deleted after that, which says what is lost.",
  },
  "not-on-its-way": {
    status: 409,
    title: (f) => `The parcel ${it(f)} is not on its way.`,
    remedy: "Nothing was done. Look at depots for how it stands.",
  },
  "parcel-damaged": {
    status: 409,
    title: (f) => `The parcel ${f.place ?? ""} is not whole: ${f.detail ?? "a checksum differs"}.`,
    remedy: "So nothing was let go. Send again, or check the depot's disk.",
  },
  "file-damaged": {
    status: 409,
    title: (f) =>
      `${it(f)} is damaged in the parcel ${f.place ?? ""}; ${f.detail ? `the same content still lies in ${f.detail}` : "no other copy of it is known"}.`,
    remedy: "It was left out; what is whole comes back.",
  },
  "parcel-stranger": {
    status: 409,
    title: (f) => `The parcel ${f.place ?? ""} is not, as it lies there, the one that Vuoto sent from here.`,
    remedy: "It may be somebody else's, or was changed. Name a new folder for what is in it; nothing goes to the old places.",
  },
  "asks-programs": {
    status: 409,
    title: (f) => `In the parcel ${f.place ?? ""} there are things that can be run: ${f.detail}.`,
    remedy: "Say that they come along as they are, if you know where they are from. Nothing was done.",
  },
  "parcel-empty": {
    status: 409,
    title: (f) => `The parcel ${it(f)} holds nothing to send.`,
    remedy: "Give things the verdict archive first.",
  },
  "copy-differs": {
    status: 409,
    title: (f) => `The copy of ${it(f)} was not the same when it was read back${f.place ? `: ${f.place} differs` : ""}.`,
    remedy: "The copy was taken away, and the original stays where it is. Check the disk that it was copied to.",
  },
  "sent-differs": {
    status: 409,
    title: (f) => `${it(f)} does not lie in its parcel as it was sent: its checksum differs.`,
    remedy: "It was left out, and nothing took its place. Check the parcel in depots.",
  },
  "not-verified": {
    status: 409,
    title: (f) => `The copy of ${it(f)} in the depot could not be confirmed.`,
    remedy: "The original stays where it is.",
  },
  "unknown-entry": {
    status: 404,
    title: (f) => `The ledger has no entry ${f.detail ?? ""}.`,
    remedy: "Look at the ledger for the entries there are.",
  },
  "no-backup": {
    status: 400,
    title: (f) => `This cannot be read as a copy of Vuoto's record${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "The record was left as it is.",
  },
  "entry-unknown": {
    status: 409,
    title: (f) => `Entry ${f.detail ?? ""} of the ledger cannot be read by this Vuoto.`,
    remedy: "It was left as it is. Another version may have written it; every other entry can be worked with.",
  },
  "record-full": {
    status: 507,
    title: () => "There is no room left for Vuoto's own record.",
    remedy: "Nothing is done that is not written down first. Make room where it lies, then try again.",
  },
  "record-read-only": {
    status: 409,
    title: () => "Vuoto's own record can only be read just now.",
    remedy: "Nothing is done that is not written down first. What lies there is still shown. Make it writable, then try again.",
  },
  "record-gone": {
    status: 409,
    title: (f) => `Vuoto's own record ${there(f)} was deleted or replaced while Vuoto ran.`,
    remedy: "Nothing was done. Stop Vuoto and start it again; it opens the newest copy, and says so.",
  },
  "already-undone": { status: 409, title: () => "This entry is already undone.", remedy: "Nothing was done." },
  "undo-depends": {
    status: 409,
    title: (f) => `This cannot be undone yet: “${f.detail}” came after it and concerns the same things or names.`,
    remedy: "Undo that one first. Nothing was done.",
  },
  "undo-nothing": { status: 409, title: () => "There is nothing to undo.", remedy: "The ledger shows what was done." },
  "again-nothing": {
    status: 409,
    title: () => "There is nothing to do again.",
    remedy: "Only what was undone last, with nothing done since.",
  },
  "copy-gone": {
    status: 409,
    title: (f) => `${it(f)} may be the last copy: ${f.detail ?? "no other is known any more"}.`,
    remedy: "It was left where it is. Look once more at what would be lost, then decide.",
  },
  "not-in-trash": {
    status: 404,
    title: (f) => `${it(f)} is not in the trash.`,
    remedy: "Look at the trash for what lies there.",
  },
  "trash-foreign": {
    status: 409,
    title: (f) => `The trash of that disk, ${there(f)}, is not yours alone.`,
    remedy: "The thing was left where it is: in there, somebody else could take it. Move it to a home first.",
  },
  erased: { status: 410, title: (f) => `${it(f)} was erased, and no parcel holds it.`, remedy: "It cannot be brought back." },
  "no-kind": {
    status: 400,
    title: () => "No kind was named that should go out of sight.",
    remedy: "Nothing was done. Name one, such as shortcut, folder, file or picture.",
  },
  "unknown-icon": {
    status: 404,
    title: (f) => `${it(f)} does not lie on your desktop, in sight or out of it.`,
    remedy: "Nothing was done. Only what lies on the desktop can be taken out of sight.",
  },
  "unknown-occasion": {
    status: 404,
    title: (f) => `There is no occasion called ${it(f)}.`,
    remedy: "Nothing was done. vuoto occasion list shows those there are.",
  },
  "occasion-not-now": {
    status: 409,
    title: (f) => `“${it(f)}” is not under way.`,
    remedy: "Nothing was done. It can be begun by hand, or begins by its timetable.",
  },
  "occasion-now": {
    status: 409,
    title: (f) => `“${it(f)}” is under way already.`,
    remedy: "Nothing was done.",
  },
  "nothing-ends": {
    status: 409,
    title: () => "Nothing that is out of sight comes back by itself.",
    remedy: "Nothing was done.",
  },
  sharing: {
    status: 403,
    title: () => "The screen is being shared, so names are not sent to this page.",
    remedy: "Nothing was done. End the sharing first; commands work meanwhile.",
  },
  "not-listable": {
    status: 409,
    title: (f) => `${it(f)} has an end of line in its name, and so cannot be listed.`,
    remedy: "It stays in sight. Give it another name, or choose another screen in settings.",
  },
  "screen-unfit": {
    status: 409,
    title: (f) => `This account cannot have the screen “${f.name}”.`,
    remedy: "Nothing was changed. vuoto screen list shows those it can have.",
  },
  "unknown-hollow": {
    status: 404,
    title: (f) => `There is no hollow called ${it(f)}.`,
    remedy: "vuoto hollow list names those that there are.",
  },
  "hollow-gone": {
    status: 409,
    title: (f) => `The hollow${f.name ? ` “${f.name}”` : ""} is no longer where it was, and in none of your homes.`,
    remedy: "Nothing was done. Bring it back to the desktop, or take it off the list.",
  },
  "no-desktop": {
    status: 409,
    title: () => "This account has no desktop folder.",
    remedy: "Nothing was done. Make a folder called Desktop first.",
  },
  "unknown-layout": {
    status: 404,
    title: (f) => `There is no layout called ${it(f)}.`,
    remedy: "vuoto layout list names those that there are.",
  },
  "no-layout": {
    status: 400,
    title: (f) => `That is no layout${f.detail ? ` (${f.detail})` : ""}.`,
    remedy: "Nothing was kept. Take the file that a layout was exported to.",
  },
  "layout-newer": {
    status: 400,
    title: (f) => `That layout was made by a newer Vuoto${f.detail ? ` (${f.detail})` : ""}.`,
    remedy: "Nothing was kept. Bring this Vuoto up to date first.",
  },
  "too-many-icons": {
    status: 409,
    title: (f) => `The icons do not all fit onto this screen${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "Nothing was moved. Choose smaller icons or less between them, or let some go out of sight first.",
  },
  "keeps-places": {
    status: 409,
    title: () => "This screen keeps the places of its icons to itself.",
    remedy: "Nothing was moved. Drag them on the desktop itself.",
  },
  "told-unfit": {
    status: 409,
    title: (f) => `told.json in the folder of Vuoto's record cannot be used${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "Nothing was changed. The README says how it is written.",
  },
  "told-failed": {
    status: 502,
    title: (f) => `The screen was told to ${f.name ?? "change"}, and whether it did is not known: ${f.detail ?? "no answer"}.`,
    remedy: "Look at the screen. vuoto screen try told shows the commands; vuoto screen use tucked-away does without them.",
  },
  "all-or-nothing": {
    status: 409,
    title: () => "This screen hides all of its icons or none.",
    remedy: "Nothing was done. Take everything out of sight, or choose another screen in settings.",
  },
  "by-command-alone": {
    status: 403,
    title: (f) => `The screen “${f.name}” is chosen by command alone.`,
    remedy: "Nothing was changed. vuoto screen use told shows its commands first.",
  },
  "already-quiet": { status: 409, title: () => "The screen already shows exactly that.", remedy: "Nothing was done." },
  cancelled: {
    status: 409,
    title: (f) => `${f.name ?? "This"} was not done: you cancelled.`,
    remedy: "What was done before that stays done, and can be undone.",
  },
  "no-account": {
    status: 404,
    title: (f) => `The folder ${there(f)} does not exist or is not a folder.`,
    remedy: "Name an existing folder with --account.",
  },
  "account-unreadable": {
    status: 403,
    title: (f) => `The folder ${there(f)} cannot be read.`,
    remedy: "Change its permissions, or name another with --account.",
  },
  "data-unsuitable": {
    status: 400,
    title: (f) => `${there(f)} cannot be the folder for Vuoto's record: ${f.detail}.`,
    remedy: "Name an empty folder, or one that does not exist yet, with --data. Nothing was changed.",
  },
  "place-unsuitable": {
    status: 400,
    title: (f) => `${there(f)} cannot be used: ${f.detail}.`,
    remedy: "Choose another folder. Nothing was done.",
  },
  "record-apart": {
    status: 409,
    title: () => "Another Vuoto, with a record of its own, is at work on these files.",
    remedy: "Only one may be at a time. Stop the other, or name its data folder with --data.",
  },
  "no-worktop": {
    status: 404,
    title: (f) => `${there(f)} holds neither a desktop nor a downloads folder.`,
    remedy: "Make a folder called Desktop or Downloads there, or name another account with --account.",
  },
  "folder-gone": {
    status: 404,
    title: (f) => `The folder ${there(f)} is missing or cannot be read.`,
    remedy: "Nothing was changed. Make it again, or change its permissions.",
  },
  "account-busy": {
    status: 409,
    title: (f) => `Another Vuoto is at work on this account${f.place ? ` at ${f.place}` : ""}.`,
    remedy: "Wait until it is done, or stop it.",
  },
  "not-started": {
    status: 500,
    title: (f) => `Vuoto did not start${f.detail ? `: ${f.detail}` : " within a minute"}.`,
    remedy: "Start it with vuoto start, which says more.",
  },
  "port-taken": {
    status: 409,
    title: (f) => `Port ${f.detail} is in use by another program.`,
    remedy: "Choose another with --port.",
  },
  "newer-database": {
    status: 409,
    title: (f) => `The record in ${there(f)} was written by a newer Vuoto (${f.detail}).`,
    remedy: "Use that version, or another data folder with --data. Nothing was changed.",
  },
  "damaged-database": {
    status: 500,
    title: (f) => `The record in ${there(f)} cannot be read.`,
    remedy: "Restore it from a backup, or use another data folder with --data.",
  },
  malformed: {
    status: 400,
    title: (f) => `The request cannot be understood${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "Nothing was done.",
  },
  "too-many-streams": {
    status: 429,
    title: () => "This browser listens to what happens too many times already.",
    remedy: "Close some of Vuoto's windows, and load this one anew.",
  },
  "too-large": { status: 413, title: () => "The request is too large.", remedy: "Nothing was done." },
  "file-too-large": {
    status: 409,
    title: (f) => `${it(f)} is larger than a file of this sort may be.`,
    remedy: "It was left as it is.",
  },
  "no-picture": {
    status: 422,
    title: (f) => `${it(f)} cannot be shown as a picture${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "It is as it was. A program of its own may open it.",
  },
  "foreign-request": {
    status: 403,
    title: () => "This request did not come from Vuoto's own page.",
    remedy: "Nothing was done.",
  },
  "no-session": {
    status: 401,
    title: () => "This browser has not been let in.",
    remedy: "Open Vuoto from your programs, or with the command vuoto open: each makes a fresh link.",
  },
  "unknown-session": {
    status: 404,
    title: () => "That browser is not let in any more.",
    remedy: "Nothing was done. The list shows those that are.",
  },
  "peers-unknown": {
    status: 500,
    title: () => "This computer does not say which user a connection comes from.",
    remedy: "Another user could speak to Vuoto, so it does not start. It needs /proc/net/tcp. The commands work without it.",
  },
  "bad-link": {
    status: 403,
    title: () => "This link was used already or is not right.",
    remedy: "Open Vuoto from your programs, or with the command vuoto open: each makes a fresh link.",
  },
  "bad-words": {
    status: 400,
    title: (f) => f.detail ?? "These words are not understood.",
    remedy: "vuoto --help lists the commands.",
  },
  unexpected: {
    status: 500,
    title: (f) => `Something unexpected went wrong${f.detail ? `: ${f.detail}` : ""}.`,
    remedy: "What was done is in the ledger.",
  },
} satisfies Record<string, Sentence>;

export class Problem extends Error {
  /** Raised before anything was touched: there is nothing to settle. */
  untouched = false;
  readonly title: string;
  readonly remedy: string;
  readonly status: number;

  constructor(
    readonly code: ProblemCode,
    readonly facts: ProblemFacts = {},
  ) {
    const sentence: Sentence = sentences[code];
    const title = sentence.title(facts);
    super(`${title} ${sentence.remedy}`);
    this.name = "Problem";
    this.title = title;
    this.remedy = sentence.remedy;
    this.status = sentence.status;
  }
}

/** Any thrown value as a problem; what is none becomes "unexpected" with the message and no stack. */
export function asProblem(thrown: unknown): Problem {
  if (thrown instanceof Problem) return thrown;
  // Bundled twice, the class is two classes: the code tells.
  if (thrown instanceof Error && "code" in thrown && typeof thrown.code === "string" && thrown.code in sentences)
    return new Problem(thrown.code as ProblemCode, "facts" in thrown ? (thrown.facts as ProblemFacts) : {});
  // SQLite's own words for what it cannot write.
  if (thrown instanceof Error && "code" in thrown && typeof thrown.code === "string") {
    if (/^SQLITE_FULL/.test(thrown.code)) return new Problem("record-full");
    if (/^SQLITE_(READONLY|CANTOPEN|IOERR)/.test(thrown.code)) return new Problem("record-read-only");
  }
  return new Problem("unexpected", { detail: thrown instanceof Error ? thrown.message : String(thrown) });
}

/** What `work` answers, or undefined where it meets a problem. */
export function unlessProblem<T>(work: () => Promise<T>): Promise<T | undefined>;
export function unlessProblem<T>(work: () => T): T | undefined;
export function unlessProblem<T>(work: () => T | Promise<T>): T | undefined | Promise<T | undefined> {
  const nothing = (error: unknown) => {
    if (error instanceof Problem) return undefined;
    throw error;
  };
  try {
    const answer = work();
    return answer instanceof Promise ? answer.catch(nothing) : answer;
  } catch (error) {
    return nothing(error);
  }
}
