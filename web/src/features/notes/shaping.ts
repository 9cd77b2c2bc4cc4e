/** Shape the note in hand, or all that is marked: a stack, a figure. */
import { type BenchState, hint, noteAtCursor, pickedNote, useBench } from "@/score/bench";
import { act } from "@/score/sending";
import { type Deed, inOrder, type Nothing, together } from "@/score/edits";
import type { Note, Tables } from "@/score/types";

export const NOTHING_IN_HAND = "No note is selected. Write one, or click on one.";

/** The notes that a deed is for: those that begin in what is marked, the first in time leading; else the one in hand. */
export const inHand = (state: BenchState): Note[] => {
  const { selection } = state;
  const marked =
    selection === null
      ? []
      : inOrder(state.elements.notes).filter((note) => note.tick >= selection.from && note.tick < selection.to);
  if (marked.length > 0) return marked;
  const note = pickedNote(state) ?? noteAtCursor(state);
  return note === null ? [] : [note];
};

export const shapeInHand = (build: (note: Note, tables: Tables) => Deed | Nothing | null): void => {
  const state = useBench.getState();
  const notes = inHand(state);
  const tables = state.bench?.tables;
  if (notes.length === 0 || tables === undefined) hint(NOTHING_IN_HAND);
  else act(together(notes.map((note) => build(note, tables))));
};
