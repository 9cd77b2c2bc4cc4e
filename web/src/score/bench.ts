/** The open solo as it is drawn: its elements and views, where the hand and the cursor are. What is known of it is owned by copy.ts. */
import { create } from "zustand";
import type { Schemas } from "@/api/client";
import { Grid } from "./axis";
import { inOrder, type Elements } from "./edits";
import type { Hand, Place } from "./hand";
import type { LeftOut } from "./outbox";
import type { Bench, Note, NoteView } from "./types";

export type Cursor = { readonly tick: number; readonly string: number };
export type Selection = { readonly from: number; readonly to: number };
export type Latches = {
  readonly join: boolean;
  readonly stay: boolean;
  readonly open: boolean;
  readonly reach: boolean;
  readonly move: boolean;
};
export type Entry = {
  readonly length: number; // index in the table of lengths
  readonly dot: boolean;
  readonly triplet: boolean;
  readonly tuplet: number; // notes in the time of four; 0 for none
  readonly position: number;
  readonly slide: number;
  readonly recent: readonly Place[];
};
export type Sending = "saved" | "sending" | "away" | "refused";
/** An undo of something that another changed since; `rest`: the rest of it can be undone. */
export type Clash = { readonly sentence: string; readonly rest: boolean };
export type Tool = "note" | "hand" | "doubts" | "find" | "by ear" | "versions" | "history";
export type Loopable = { readonly tick: number; readonly end: number; readonly phrase: string | null };

export type BenchState = {
  readonly bench: Bench | null;
  readonly past: number | null; // the earlier state that is open, to be read only
  readonly elements: Elements;
  readonly views: Readonly<Record<string, NoteView>>;
  readonly unanswered: ReadonlySet<string>; // notes whose label is older than their writing
  readonly grid: Grid;
  readonly versions: Readonly<Record<string, number>>;
  readonly cursor: Cursor;
  readonly selection: Selection | null;
  readonly picked: string | null;
  readonly phrase: string | null;
  readonly entry: Entry;
  readonly latches: Latches;
  readonly sending: Sending;
  readonly waiting: number;
  readonly trouble: string | null;
  readonly messages: readonly string[]; // what the server found on the way of the last request
  readonly clash: Clash | null;
  readonly leftOut: readonly LeftOut[]; // acts that were refused and wait for a decision
  readonly under: Under | null;
  readonly tool: Tool;
  readonly menu: boolean; // the menu at the note
  readonly figure: Selection | null; // the last figure that was repeated
  readonly ways: Previewed | null;
  readonly handMap: Schemas["HandMap"] | null; // drawn on the neck
  readonly compared: Schemas["Comparison"] | null;
  readonly placing: number | null; // the bar that the next click in the sound puts
};

/** Fingerings through a span, one of them shown on the neck. */
export type Previewed = {
  readonly from: number;
  readonly to: number;
  readonly found: Schemas["Ways"];
  readonly at: number;
};

/** Another part of the same recording, laid under the one in hand. */
export type Under = { readonly id: string; readonly notes: readonly Schemas["PartNote"][] };

const NO_LATCH: Latches = { join: false, stay: false, open: false, reach: false, move: false };
const NOTHING: Elements = { notes: {}, rests: {}, stacks: {}, phrases: {}, questions: {}, dynamics: {}, swells: {} };
const EIGHTH = 3; // index of the length that a page starts with

export const empty = (): BenchState => ({
  bench: null,
  past: null,
  elements: NOTHING,
  views: {},
  unanswered: new Set(),
  grid: new Grid([
    { tick: 0, second: 0 },
    { tick: 1, second: 1 },
  ]),
  versions: {},
  cursor: { tick: 0, string: 1 },
  selection: null,
  picked: null,
  phrase: null,
  entry: { length: EIGHTH, dot: false, triplet: false, tuplet: 0, position: 5, slide: 0, recent: [] },
  latches: NO_LATCH,
  sending: "saved",
  waiting: 0,
  trouble: null,
  messages: [],
  clash: null,
  leftOut: [],
  under: null,
  handMap: null,
  compared: null,
  tool: "note",
  menu: false,
  figure: null,
  ways: null,
  placing: null,
});

export const useBench = create<BenchState>(() => empty());
const { getState: get, setState: set } = useBench;

export const drawMap = (handMap: Schemas["HandMap"] | null): void => set({ handMap });
export const compareTo = (compared: Schemas["Comparison"] | null): void => set({ compared });
/** What one tool was told stays with it. */
export const openTool = (tool: Tool): void => set((state) => (state.tool === tool ? {} : { tool, messages: [] }));
export const openMenu = (menu: boolean): void => set({ menu });
export const setFigure = (figure: Selection | null): void => set({ figure });
export const preview = (ways: Previewed | null): void => set({ ways });
export const placeBar = (placing: number | null): void => set({ placing });
export const layUnder = (under: Under | null): void => set({ under });
export const dismiss = (): void => set({ trouble: null, clash: null });

// -- the hand and the cursor -------------------------------------------------------------------------------------

export const ticksOf = (state: BenchState): number => {
  const length = state.bench?.tables.lengths[state.entry.length];
  if (length === undefined) return 1;
  const tuplet = length.tuplets.find((one) => one.count === state.entry.tuplet);
  if (tuplet !== undefined) return tuplet.ticks;
  return state.entry.triplet ? length.triplet : state.entry.dot ? length.dotted : length.ticks;
};

export const handOf = (state: BenchState, mirrored: boolean): Hand => ({
  position: state.entry.position,
  strings: state.bench?.tables.strings.length ?? 6,
  slide: state.entry.slide,
  mirrored,
});

export const pickedNote = (state: BenchState): Note | null =>
  state.picked === null ? null : (state.elements.notes[state.picked] ?? null);

export const setEntry = (entry: Partial<Entry>): void => set((state) => ({ entry: { ...state.entry, ...entry } }));
export const setLatch = (name: keyof Latches, on?: boolean): void =>
  set((state) => ({ latches: { ...state.latches, [name]: on ?? !state.latches[name] } }));
export const clearLatches = (): void => set((state) => ({ latches: { ...NO_LATCH, move: state.latches.move } }));

/** First and last tick of the strip. */
export const bounds = (state: BenchState): readonly [number, number] => {
  const bars = state.bench?.strip.bars ?? [];
  return [bars[0]?.tick ?? 0, bars[bars.length - 1]?.end ?? 0];
};

export const setCursor = (cursor: Partial<Cursor>, picked: string | null = null): void => {
  const state = get();
  const [first, last] = bounds(state);
  const tick = Math.min(Math.max(cursor.tick ?? state.cursor.tick, first), last);
  set({ cursor: { tick, string: cursor.string ?? state.cursor.string }, picked });
};

/** Put the cursor on a note and take it in hand. */
export const pick = (note: Note): void => setCursor({ tick: note.tick, string: note.string }, note.id);
/** To the note that something is about; to its place where no note is left. */
export const goTo = (tick: number, id: string | null | undefined): void => {
  const note = get().elements.notes[id ?? ""];
  if (note === undefined) setCursor({ tick });
  else pick(note);
};
export const select = (selection: Selection | null): void =>
  set({ selection: selection === null || selection.to <= selection.from ? null : selection });
export const choosePhrase = (phrase: string | null): void => set({ phrase });
export const hint = (trouble: string): void => set({ trouble });

/** The note that sounds at the cursor on its string, else any that starts there. */
export const noteAtCursor = (state: BenchState): Note | null => {
  const { tick, string } = state.cursor;
  const notes = inOrder(state.elements.notes);
  return (
    notes.find((note) => note.string === string && note.tick <= tick && tick < note.tick + note.ticks) ??
    notes.find((note) => note.tick === tick) ??
    null
  );
};
