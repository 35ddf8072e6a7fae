import type { SuggestedHome } from "@/contract/homes";
import type { PlannedHome } from "@/core/homes/filing-plan";
import type { Doubt, Weekday } from "@/core/quiet/occasions";
import type { QuietLevel } from "@/core/screen/state";
import type { Keys } from "@/core/settings/keys";
import type { FindingKind } from "@/core/survey/findings";
import type { Kind } from "@/core/survey/kinds";
import type { DepotKind, DepotState, ParcelState } from "./depot-states";
import type { Shown } from "./looks";

/** What the views are given. */
export type Verdict = "stay" | "put away" | "archive" | "wait" | "let go";
/** What becomes of a thing in a sitting. */
export type Outcome = Verdict | "note";

export interface Tile {
  id: string;
  name: string;
  kind: Kind;
  bytes: number;
  /** Of a folder: how many entries lie in it. */
  entries?: number;
  mtimeMs: number;
  /** Pixels of the sheet. */
  x: number;
  y: number;
  picture: boolean;
  outOfSight: boolean;
  overlapping: boolean;
  /** Whether an identical copy lies in a protected place; undefined where that is not known. */
  elsewhere?: boolean;
  verdict?: string;
  worktop: string;
  /** Of what has a name that is drawn as nothing: that name. */
  blank?: string;
  /** Its picture is a clear one. */
  clear?: true;
}

export interface FindingView {
  letter: string;
  kind: FindingKind;
  title: string;
  proof: string;
  /** The things it is about, on whichever worktop. */
  items: string[];
  /** Things that are kept for these. */
  stay: string[];
  action: string;
  /** Whether these can be let go on the strength of the proof, and what that would win, in words. */
  settles: boolean;
  wins: string;
}

/** A place that can be marked as protected. */
export interface PlaceView {
  id: string;
  /** Its bytes in base64. */
  folder: string;
  title: string;
  path: string;
  protection: "backed up" | "synchronised" | null;
}

export interface SheetView {
  worktop: "desktop" | "downloads";
  width: number;
  height: number;
  /** The part of the sheet that is the screen; 0 where the sheet is laid out by age. */
  screenHeight: number;
  icon: { width: number; height: number };
  label: { width: number; height: number };
  tiles: Tile[];
  /** Of one with very many things: by it only what changed since is told. */
  mark?: string;
}

/** Things of a sheet, in order: what is as it was, by where it stood in the list before, and how many; else the thing. */
export type TilesSince = (Tile | [from: number, count: number])[];

/** A view of very many things as it is now, its things told by what changed. */
export interface ViewSince<View> {
  view: View;
  tiles: TilesSince;
}

export interface SurveyView {
  sheets: { id: "desktop" | "downloads"; title: string; count: number }[];
  sheet: SheetView;
  /** The sentence, as parts; a part with items opens them. */
  sentence: { text: string; items?: string[] }[];
  note: string;
  findings: FindingView[];
  tideMarks: { at: number; label: string }[];
  undecided: number;
  /** Places marked as protected. */
  protectedPlaces: number;
  /** Of those that are backed up the ones that are not here: what exists nowhere else is not known. */
  absentPlaces: string[];
  /** What changed since another day, in words. */
  sinceLastTime?: string;
  unreadable: string[];
  /** Things with a dot in front of their names, which are no icons. */
  hidden: number;
  /** Folders in the homes and protected places that could not be looked into. */
  unreadableFolders: number;
  /** Of a sheet on which nothing lies any more: what lay there today and where that is now, in words; and where it lay, as shares of the sheet. */
  cleared?: { words: string; points: { x: number; y: number }[] };
  /** Folders on the sheet that are drawn as nothing: how many, and where, in pixels of the screen, as far as it says so. */
  hollows: { count: number; spots: { x: number; y: number }[] };
  screen: string;
}

export interface SlotView {
  id: string;
  title: string;
  above: string;
  /** It is synchronised: what is deleted there is deleted elsewhere too, and nothing there is archived. */
  synchronised?: true;
  ready: number;
  taken: number;
}

export interface BelongView {
  tile: Tile;
  score: number;
  why: string;
}

/** What has no sure home yet, and a home for it: one that is there, or a new one by its title. */
export interface OverlookedView {
  why: string;
  /** The first of them. */
  tiles: Tile[];
  /** The others, by their ids. */
  more: string[];
  home: { id?: string; title: string };
}

export const sweepSheets = ["belongs", "overlooked", "finer", "prepare", "plan", "gather"] as const;
export type SweepSheet = (typeof sweepSheets)[number];

export interface SweepView {
  sheet: SweepSheet;
  slots: SlotView[];
  chosen?: { id: string; title: string; rows: BelongView[]; cut: number };
  /** Every home for which something is sure, the fullest first: what would be taken if all were. */
  ready: { id: string; title: string; count: number }[];
  overlookedCount: number;
  /** Gathered by likeness, on their sheet only. */
  overlooked: OverlookedView[];
  /** How many things went only to an area, and, on their sheet, what they are like. */
  finerCount: number;
  finer: OverlookedView[];
  /** The new homes that what lies there suggests, on their sheet only. */
  suggested: SuggestedHome[];
  /** The filing plan, on its sheet only. */
  plan: PlannedHome[];
  worktops: { id: "desktop" | "downloads"; count: number }[];
  /** What one icon takes of the screen, to say what a sweep wins; undefined where places are not known. */
  shareOf?: Record<string, number>;
}

export interface ThingView extends Shown {
  proofs: { title: string; text: string }[];
  /** What has it open, in words; it is left alone. */
  inUse?: string;
  /** A file that a program of the computer may open. */
  program: boolean;
  /** A folder that can be opened, to decide upon what is in it thing by thing. */
  folder: boolean;
  homes: { id: string; title: string; why: string; synchronised?: true }[];
  /** Whether it is out of sight; undefined of what does not lie on the desktop, which alone is on a screen. */
  outOfSight?: boolean;
}

export interface PileItem {
  id: string;
  name: string;
  kind: Kind;
  bytes: number;
  picture: boolean;
  /** Milliseconds since 1970. */
  mtimeMs: number;
  /** Empty of what lies in a folder. */
  worktop: string;
  /** The number of its family in the list of them, from one on. */
  family?: number;
  /** When it was to come up again, of what is due; milliseconds since 1970. */
  due?: number;
}

/** What was settled before in the same sitting. */
export interface SettledView {
  items: PileItem[];
  verdict: Outcome;
  tookMs: number;
  entry: number;
}

/** What stands around the pile of a sitting, and changes with what is done elsewhere. */
export interface SittingAround {
  /** The titles of the parcels that are collected, the latest first, and of the projects under way. */
  parcels: string[];
  /** The one into which things go that are archived without naming any. */
  parcel: string | null;
  projects: string[];
  /** The home for notes; null before it was chosen. */
  notes: string | null;
  /** How many things wait for a later verdict, those that are due among them. */
  waiting: number;
}

/** How it stands now, for a sitting that goes on. */
export interface SittingNow extends SittingAround {
  /** The thing that is looked at, while it lies there without a verdict. */
  first?: ThingView;
  /** Of what lies ahead: what has a verdict by now, or lies there no more; in a sentence. */
  over: { id: string; why: string }[];
}

export interface SittingView {
  sitting: string;
  settled: SettledView[];
  pile: PileItem[];
  /** What joins each family, in words. */
  families: string[];
  first?: ThingView;
  around: SittingAround;
  /** How long the latest verdicts took, in milliseconds. */
  times: [Kind, number][];
  /** Where the person stopped last time, and what is left. */
  before?: string;
}

export interface SittingEnd {
  /** How many things each verdict was given on. */
  went: Record<Outcome, number>;
  /** The parcel that is collected, and not sent yet. */
  parcel?: string;
  before: number;
  after: number;
  /** What was won, in the survey's figures. */
  won: { figure: string; before: string; after: string }[];
  /** The desktop to scale, before and after, with the verdict on what lay there; undefined where places are not known. */
  drawn?: {
    width: number;
    height: number;
    icon: { width: number; height: number };
    before: { x: number; y: number; verdict?: Outcome }[];
    after: { x: number; y: number }[];
  };
  settled: number;
  entries: number;
}

export interface ParcelView {
  id: string;
  title: string;
  state: ParcelState;
  /** What it holds and how it stands, in words. */
  words: string;
  /** Its depot, where it has one. */
  depot?: { id: string; title: string };
  /** How many things there are, and how many are how far. */
  ticks?: { things: number; packed: number; sent: number; readBack: number; letGo: number };
  /** What does not go along, each with why. */
  leftOut?: { name: string; why: string }[];
  /** Why it stands still or waits, in words. */
  problem?: string;
  /** What the person can do about that: give the sign-in, or look at a certificate. */
  asks?: "sign-in" | "certificate";
  /** Things that are collected; of one on its way, which is closed, none. */
  things: { id: string; name: string; size: string }[];
  /** The largest of them. */
  largest?: { name: string; bytes: number };
  bytes: number;
  /** Where it lies, for the person to read. */
  bag?: string;
  /** Of one that was sent: when it was last read, and what was found. */
  checked?: string;
  damaged?: string[];
  /** It was not sent from here. */
  found?: true;
}

export interface DepotView {
  id: string;
  title: string;
  kind: DepotKind;
  /** It is one of the sample account's stand-ins. */
  standIn?: true;
  location: string;
  state: DepotState;
  /** How it is and what it holds, in words. */
  words: string;
  free?: number;
  total?: number;
  /** Its parcels as parts of what it holds in all, the oldest first; `other` is what else lies in it. */
  layers: { title: string; share: number }[];
  other: number;
  /** What is on its way to it or could be: how much of it is there, and how much more there will be. */
  coming?: { there: number; whole: number };
  checks: { on: boolean; bytesAMonth?: number };
  /** Bytes a second, there and back taken together, when something was last on its way to it. */
  rate?: number;
  /** A certificate that it shows and nobody vouches for, or another one than was accepted: its SHA-256, and what is known of it. */
  certificate?: { sha256: string; words: string };
}

/** A sample drive, to be plugged in and pulled out. */
export interface SampleDriveView {
  name: string;
  pluggedIn: boolean;
  point: string;
}

/** What else could go to a depot. */
export interface ProposalView {
  id: string;
  title: string;
  /** Why it is proposed. */
  words: string;
  things: { id: string; name: string; size: string; bytes: number }[];
  /** So many more than are listed. */
  more: number;
  bytes: number;
}

export interface DepotsView {
  depots: DepotView[];
  /** Parcels that are collected, or on their way. */
  waiting: ParcelView[];
  sent: ParcelView[];
  proposals: ProposalView[];
  drives: SampleDriveView[];
  /** Places that could be added at once, on the sample account. */
  suggestions: { location: string; words: string; user?: string; password?: string }[];
}

/** An occasion as a line. */
export interface OccasionLine {
  id: string;
  title: string;
  /** How much goes out of sight. */
  words: string;
  /** When it is, or since when and until when. */
  when: string;
  /** Its next times, in words. */
  next: string[];
  now: boolean;
  /** It is under way, and ends by itself. */
  ends: boolean;
  /** As it was made, for changing it. */
  level: QuietLevel;
  kinds: Kind[];
  hours?: { days: Weekday[]; from: string; to: string };
  unnamed: boolean;
  /** The layout that it brings, by its title. */
  layout?: string;
}

/** Names are not sent to Vuoto's own pages for now: what stands there instead. */
export interface Sharing {
  occasion: string;
  title: string;
  /** When it ends, in words; undefined where it is ended by hand. */
  until?: string;
  counts: { words: string; count: string }[];
}

export interface QuietView {
  level: QuietLevel;
  /** With "some kinds": those that are out of sight. */
  kinds: Kind[];
  /** What arrives goes out of sight too. */
  along: boolean;
  /** When everything comes back by itself, in words. */
  until?: string;
  /** When it ends cannot be told: the clock was set back, or the zone changed under an occasion. */
  doubt?: Doubt;
  /** All that lies on the desktop, in sight or out of it. */
  sheet?: SheetView;
  /** Whether the screen says where its icons lie; if not, they are laid out by age. */
  positioned: boolean;
  /** Whether icons can be given other places here; on other screens that is done on the desktop itself. */
  placesIcons: boolean;
  /** The things that were left on purpose. */
  stays: string[];
  /** Those that were taken out of sight one by one. */
  apart: string[];
  arrived: number;
  /** The names of what is in sight still, as a program has it open. */
  inUse: string[];
  /** The names of what was taken out of sight and is no longer where it was put; and the place where that was. */
  gone: string[];
  goneFrom?: string;
  /** How things get out of sight on this screen. */
  sentence: string;
  /** Until things were taken out of sight for the first time: what else is to be known of how that is done. */
  caution?: string;
  /** How it is known what is out of sight: told to hide and not said to have; or it says that it shows all the same. */
  believed: "known" | "asked" | "otherwise";
  /** It hides all of its icons or none. */
  allOrNothing: boolean;
  occasions: OccasionLine[];
  /**
   * The command that takes everything out of sight and brings it back, for a key of the person's own; undefined where the
   * account's name is no text that could stand in one.
   */
  command?: string;
  /** The last time that it was given by command. */
  pressed?: { entry: number; words: string };
}

export interface EntryLine {
  id: number;
  words: string;
  when: string;
  state: "running" | "done" | "undone";
  of: number | null;
  /** The sitting in which it was given, if in one. */
  sitting?: string;
  refused: { name: string; why: string }[];
  /** It can be undone; where what a part of it moved was destroyed since, how much of it: "2 of 7". */
  undo?: { part?: string };
  /** It is an undo, and what it took back can be done again. */
  canRedo: boolean;
  nothing: boolean;
}

export interface TrashLine {
  id: string;
  name: string;
  from: string;
  /** Milliseconds since 1970; missing where it is not known. */
  deletedAt?: number;
  /** Of a folder it is not counted here. */
  bytes?: number;
}

export interface LedgerView {
  sheet: "acts" | "trash";
  /** Some of the acts, the latest first, and how many there are in all. */
  entries: EntryLine[];
  /** The sittings that these belong to, in words, and how many of their acts stand. */
  sittings: { id: string; words: string; standing: number }[];
  total: number;
  /** How many stand. */
  standing: number;
  /** Of these, how many erased something for good. */
  forGood: number;
  /** Whether these are not the latest, and the act before which there are older ones. */
  older?: number;
  latest: boolean;
  /** On its sheet only. */
  trash: TrashLine[];
  trashCount: number;
  trashBytes: number;
  /** What the acts are looked through for. */
  word?: string;
}

/** A job while it runs. `of` is 0 where the whole is not known. */
export interface JobLine {
  id: string;
  words: string;
  /** The parcel it sends or checks, where it does, by its id. */
  parcel?: string;
  /** Stopped, it is only paused. */
  pauses?: true;
  done: number;
  of: number;
  unit: "bytes" | "things";
  /** Milliseconds since it began. */
  took: number;
  state: "running" | "cancelling" | "over";
}

/** How words are made: as on the server, and as of the same moment. */
export interface WordsOf {
  locale: string;
  timeZone: string;
  /** Milliseconds since 1970. */
  now: number;
}

export interface FrameView {
  words: WordsOf;
  /** The key of each command. */
  keys: Keys;
  /** The mark of the last event that is in what is shown. */
  after: string;
  /** The name under which all pages of this account hear one stream. */
  stream: string;
  account: string;
  counts: { survey: string; homes: string; sitting: string; depots: string; quiet: string };
  /** The last act; whether what was undone can be done again; and what the next undo takes back: that act or another. */
  last?: { words: string; when: string; again: boolean; undo?: { other?: string; part?: string } };
  /** Things that are collected for an archive, and not sent yet. */
  waiting: number;
  outOfSight: number;
  believed: QuietView["believed"];
  /** What ends within two minutes: an occasion, or what was taken out of sight until a time; and when. */
  endsSoon?: { title?: string; at: string };
  sharing?: Sharing;
  arrived: number;
  level: string;
  jobs: JobLine[];
  recovered: string[];
}
