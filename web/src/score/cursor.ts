/** The cursor, the note in hand, what is marked, and the chosen phrase. */
import { create } from "zustand";
import { bounds, openDocument, useDocument } from "./document";
import { inOrder } from "./elements";
import type { Note } from "./types";

export type Cursor = { readonly tick: number; readonly string: number };
export type Selection = { readonly from: number; readonly to: number };

export type AtHand = {
  readonly cursor: Cursor;
  readonly selection: Selection | null;
  readonly picked: string | null;
  readonly phrase: string | null;
};

export const useCursor = create<AtHand>(() => ({
  cursor: { tick: 0, string: 1 },
  selection: null,
  picked: null,
  phrase: null,
}));
export const atHand = useCursor.getState;
const set = useCursor.setState;

export const setCursor = (to: Partial<Cursor>, picked: string | null = null): void => {
  const { cursor } = atHand();
  const [first, last] = bounds();
  const tick = Math.min(Math.max(to.tick ?? cursor.tick, first), last);
  set({ cursor: { tick, string: to.string ?? cursor.string }, picked });
};

/** Put the cursor on a note and select it. */
export const pick = (note: Note): void => setCursor({ tick: note.tick, string: note.string }, note.id);

/** To the note that something is about; to its place where no note is left. */
export const goTo = (tick: number, id: string | null | undefined): void => {
  const note = openDocument().elements.notes[id ?? ""];
  if (note === undefined) setCursor({ tick });
  else pick(note);
};

export const select = (selection: Selection | null): void =>
  set({ selection: selection === null || selection.to <= selection.from ? null : selection });
export const choosePhrase = (phrase: string | null): void => set({ phrase });

const noteOf = (notes: Readonly<Record<string, Note>>, { cursor, picked }: AtHand): Note | null => {
  const selected = picked === null ? undefined : notes[picked];
  if (selected !== undefined) return selected;
  const sorted = inOrder(notes);
  const sounding = sorted.find(
    ({ string, tick, ticks }) => string === cursor.string && tick <= cursor.tick && cursor.tick < tick + ticks,
  );
  return sounding ?? sorted.find((note) => note.tick === cursor.tick) ?? null;
};

/** The selected note; else the one that sounds at the cursor on its string, else any that starts there. */
export const noteInHand = (): Note | null => noteOf(openDocument().elements.notes, atHand());
export const useNoteInHand = (): Note | null =>
  noteOf(
    useDocument((state) => state.elements.notes),
    useCursor(),
  );

/** The selected note, and nothing where only the cursor stands. */
export const pickedNote = (): Note | null => openDocument().elements.notes[atHand().picked ?? ""] ?? null;

/** The notes that an act is for: those that begin in what is marked, the first in time leading; else the one in hand. */
export const notesInHand = (): Note[] => {
  const { selection } = atHand();
  const marked =
    selection === null
      ? []
      : inOrder(openDocument().elements.notes).filter(({ tick }) => tick >= selection.from && tick < selection.to);
  if (marked.length > 0) return marked;
  const note = noteInHand();
  return note === null ? [] : [note];
};

/** Put the cursor on the note before or after, for who goes through a solo by ear. */
export const nextNote = (by: 1 | -1): void => {
  const { picked, cursor } = atHand();
  const notes = inOrder(openDocument().elements.notes);
  const at = picked === null ? -1 : notes.findIndex((note) => note.id === picked);
  const next =
    at >= 0
      ? notes[at + by]
      : by > 0
        ? notes.find((note) => note.tick >= cursor.tick)
        : notes.findLast((note) => note.tick < cursor.tick);
  if (next !== undefined) pick(next);
};

/** The bar at the cursor; the last one at the end of the strip. */
export const useBarHere = () => {
  const bars = useDocument((state) => state.bench?.strip.bars);
  const tick = useCursor((state) => state.cursor.tick);
  return bars?.find((bar) => tick < bar.end) ?? bars?.at(-1);
};
