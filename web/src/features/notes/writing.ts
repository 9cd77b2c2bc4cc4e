/** What the keys and the buttons write. */
import { atHand, noteInHand, notesInHand, pickedNote, select, setCursor } from "@/score/cursor";
import { bounds, openDocument, phraseAt, stringCount } from "@/score/document";
import { moveFret, moveInTime, removeNotes, setLength, withSecondDigit, writeNote, writeRest } from "@/score/edits";
import { type Act, type Nothing, inOrder, together } from "@/score/elements";
import { clearLatches, type Entry, entryNow, setEntry, setLatch, ticksNow } from "@/score/entry";
import type { Place } from "@/score/hand";
import { stepLevel, swell } from "@/score/loudness";
import { agreeing, offersNow, offersOf } from "@/score/offers";
import { hint } from "@/score/saving";
import { act } from "@/score/sending";
import type { Note, Stack, Tables } from "@/score/types";
import { takeAt } from "./listening";

const RECENT = 6;
const FRACTION = 0.25; // of a fret, under a bottleneck
const NOTHING_IN_HAND = "No note is selected. Write one, or click on one.";

/** Why nothing can be done to a note: there is none. */
export const noNote = (): string | null => (notesInHand().length === 0 ? NOTHING_IN_HAND : null);
/** The same, where one note alone is meant. */
export const noSingleNote = (): string | null => (noteInHand() === null ? NOTHING_IN_HAND : null);

const withNote = (build: (note: Note) => Act | Nothing | null): void => {
  const note = noteInHand();
  if (note !== null) act(build(note));
};

/** Shape the note in hand, or all that is marked: a stack, a figure. */
export const shapeInHand = (build: (note: Note, tables: Tables) => Act | Nothing | null): void => {
  const notes = notesInHand();
  const tables = openDocument().bench?.tables;
  if (notes.length === 0 || tables === undefined) hint(NOTHING_IN_HAND);
  else act(together(notes.map((note) => build(note, tables))));
};

// While the key of `stay` is held down every string goes on the same place: a chord is one key a string.
let staying: "held" | "used" | null = null;
export const holdStay = (down: boolean): void => {
  if (!down && staying === "used") setLatch("stay", false);
  staying = down ? (staying ?? "held") : null;
};

/** Write at the cursor, and move on. `shift` joins as the latch does. */
export const writeAt = (place: Place, shift = false): void => {
  const { bench, elements } = openDocument();
  if (bench === null) return;
  const { latches, recent } = entryNow();
  const { cursor } = atHand();
  const last = latches.stay ? pickedNote() : null;
  const tick = last?.tick ?? cursor.tick;
  if (tick >= bounds()[1]) return hint("The strip ends here. Add bars in Setup.");
  const offer = latches.stay ? null : agreeing(offersOf(offersNow()), place, tick, ticksNow() / 2);
  if (offer !== null) {
    setEntry({ recent: [...recent.slice(1 - RECENT), place] });
    clearLatches();
    return void takeAt(offer, place);
  }
  const made = writeNote(
    elements,
    {
      tick,
      ticks: last?.ticks ?? ticksNow(),
      ...place,
      slides: bench.solo.settings.bottleneck && !latches.stay,
    },
    latches.join || shift,
  );
  act(made);
  const written = openDocument().elements.notes[made.picked ?? ""];
  setEntry({ recent: [...recent.slice(1 - RECENT), place] });
  clearLatches();
  if (staying !== null) {
    staying = "used";
    setLatch("stay", true);
  }
  if (written !== undefined) setCursor({ tick: written.tick + written.ticks, string: place.string }, written.id);
};

// The fret that the last digit wrote, and where the cursor went; a second digit joins while it still stands there.
let joining: { readonly note: string; readonly fret: number; readonly tick: number } | null = null;
/** The next digit begins a fret of its own. */
export const endDigits = (): void => {
  joining = null;
};

/** In string-and-number entry: a digit writes its fret on the string of the cursor, a second one joins it. */
export const writeDigit = (digit: number, shift = false): void => {
  const { cursor, picked } = atHand();
  const { elements, bench } = openDocument();
  const before = joining !== null && picked === joining.note && cursor.tick === joining.tick ? joining : null;
  const note = before === null ? undefined : elements.notes[before.note];
  const fret = (before?.fret ?? 0) * 10 + digit;
  if (note !== undefined && fret > digit && fret <= (bench?.tables.frets ?? 22)) {
    act(withSecondDigit(elements, note, fret));
    joining = null;
    return;
  }
  writeAt({ string: cursor.string, fret: digit }, shift);
  const written = atHand();
  joining = written.picked === null ? null : { note: written.picked, fret: digit, tick: written.cursor.tick };
};

export const chooseString = (string: number): void => {
  joining = null;
  setCursor({ string }, atHand().picked);
};

export const restHere = (): void => {
  const ticks = ticksNow();
  const { tick } = atHand().cursor;
  if (tick >= bounds()[1]) return;
  act(writeRest(openDocument().elements, tick, ticks));
  setCursor({ tick: tick + ticks });
};

// -- the cursor, and what is moved with it --------------------------------------------------------------------------

export const step = (by: 1 | -1): void => setCursor({ tick: atHand().cursor.tick + by * ticksNow() });

export const stepString = (by: 1 | -1): void => {
  const { cursor, picked } = atHand();
  setCursor({ string: Math.min(stringCount(), Math.max(1, cursor.string + by)) }, picked);
};

/** Mark a span from where the cursor was. */
export const widen = (by: 1 | -1): void => {
  const { cursor, selection } = atHand();
  const anchor = selection === null ? cursor.tick : selection.from === cursor.tick ? selection.to : selection.from;
  step(by);
  const { tick } = atHand().cursor;
  select({ from: Math.min(anchor, tick), to: Math.max(anchor, tick) });
};

export const moveByStep = (by: 1 | -1): void =>
  withNote((note) => {
    const made = moveInTime(openDocument().elements, note, note.tick + by * ticksNow(), bounds());
    const to = "changes" in made ? (made.changes[0]?.after as Note | undefined)?.tick : undefined;
    if (to !== undefined) setCursor({ tick: to }, note.id);
    return made;
  });

export const moveByFret = (by: 1 | -1): void =>
  withNote((note) => {
    const { bench } = openDocument();
    const fret = bench?.solo.settings.bottleneck === true ? FRACTION : 1;
    return moveFret(note, by * fret, bench?.tables.highest_fret ?? 22);
  });

/** The hand goes along the neck by frets. */
export const moveHand = (by: number): void => {
  const highest = Math.max(0, (openDocument().bench?.tables.frets ?? 22) - 3);
  setEntry({ position: Math.min(highest, Math.max(0, entryNow().position + by)) });
};

// -- lengths, the stack, loudness -----------------------------------------------------------------------------------

/** Choose the length that is written next; the note in hand takes it, too. */
export const changeLength = (change: Partial<Omit<Entry, "latches">>): void => {
  setEntry(change);
  const note = pickedNote();
  if (note === null) return;
  const follows = atHand().cursor.tick === note.tick + note.ticks;
  act(setLength(openDocument().elements, note, ticksNow()));
  const now = openDocument().elements.notes[note.id];
  if (follows && now !== undefined) setCursor({ tick: now.tick + now.ticks }, note.id);
};

/** The stack of the note in hand, with its notes. */
export const stackInHand = (): { readonly stack: Stack; readonly notes: readonly Note[] } | null => {
  const { elements } = openDocument();
  const stack = elements.stacks[noteInHand()?.stack ?? ""];
  if (stack === undefined) return null;
  return { stack, notes: inOrder(elements.notes).filter((one) => one.stack === stack.id) };
};
export const noStack = (): string | null =>
  noSingleNote() ??
  (stackInHand() === null ? "This note stands alone. A stroke and a cut need notes that start together." : null);
export const ofStack = (build: (stack: Stack, notes: readonly Note[], picked: string) => Act): void => {
  const [found, note] = [stackInHand(), noteInHand()];
  if (found !== null && note !== null) act(build(found.stack, found.notes, note.id));
};

/** A swell over what is marked, else one level from the note in hand or the cursor on. */
export const changeLoudness = (to: "louder" | "softer"): void => {
  const { selection, picked, cursor } = atHand();
  const { elements } = openDocument();
  const tick = noteInHand()?.tick ?? cursor.tick;
  const made = selection !== null ? swell(elements, selection, to, picked) : stepLevel(elements, tick, to, picked);
  if (made === null) hint(`There is no level ${to} than this.`);
  else act(made);
};

// -- removing -------------------------------------------------------------------------------------------------------

/** What would be removed: all that begins in what is marked, else the note in hand, else the rest at the cursor. */
const removable = (): { readonly notes: readonly string[]; readonly rests: readonly string[] } => {
  const { selection, cursor } = atHand();
  const { notes, rests } = openDocument().elements;
  if (selection !== null) {
    const inside = ({ tick }: { tick: number }) => tick >= selection.from && tick < selection.to;
    const ids = (all: readonly { id: string; tick: number }[]) => all.filter(inside).map(({ id }) => id);
    return { notes: ids(inOrder(notes)), rests: ids(Object.values(rests)) };
  }
  const note = noteInHand();
  if (note !== null) return { notes: [note.id], rests: [] };
  const rest = Object.values(rests).find(({ tick, ticks }) => tick <= cursor.tick && cursor.tick < tick + ticks);
  return { notes: [], rests: rest === undefined ? [] : [rest.id] };
};
export const nothingToRemove = (): string | null => {
  const { notes, rests } = removable();
  return notes.length + rests.length === 0 ? "There is nothing to delete here." : null;
};
export const remove = (): void => {
  const { notes, rests } = removable();
  const first = atHand().selection === null ? openDocument().elements.notes[notes[0] ?? ""] : undefined;
  act(removeNotes(openDocument().elements, notes, rests));
  if (first !== undefined) setCursor({ tick: first.tick, string: first.string });
};

/** The span that a tool asks about: what is marked, else the note in hand, else the phrase at the cursor. */
export const spanInHand = (): { from: number; to: number } | null => {
  const { selection, cursor } = atHand();
  if (selection !== null) return selection;
  const note = noteInHand();
  if (note !== null) return { from: note.tick, to: note.tick + 1 };
  const phrase = phraseAt(cursor.tick);
  return phrase === undefined ? null : { from: phrase.start, to: phrase.end };
};
