/** Notes as they lie on the axis: what every lane of the strip draws from. */
import { type Axis, type Grid, toPx } from "./axis";
import type { Things } from "./edits";
import { noteSpan } from "./neck";
import type { Note, NoteMark } from "./types";

export type Placed = {
  readonly id: string;
  readonly note: Note;
  readonly mark: NoteMark | undefined;
  readonly x: number;
  readonly endX: number;
  readonly startS: number;
  readonly endS: number;
  /** Pixels to the note after in time, and to the nearer of both neighbours: what a label may take. */
  readonly room: number;
  readonly gap: number;
  /** The note before on the same string, which hammer-ons, pull-offs and slides come from. */
  readonly before: { readonly x: number; readonly fret: number | null } | null;
};

/** What was laid for a note the last time: the same object again when nothing of it changed, so that it is not drawn again. */
const laid = new WeakMap<Note, Placed>();
const asBefore = (placed: Placed): Placed => {
  const old = laid.get(placed.note);
  const same = old !== undefined && old.mark === placed.mark && old.x === placed.x && old.endX === placed.endX && old.room === placed.room && old.gap === placed.gap
    && old.startS === placed.startS && old.before?.x === placed.before?.x && old.before?.fret === placed.before?.fret;
  if (same) return old;
  laid.set(placed.note, placed);
  return placed;
};

export type Chunks = ReadonlyMap<number, readonly Placed[]>;

/** The notes of each stretch of the strip, those within `edge` pixels of it too; a stretch whose notes are as before keeps its list. */
export const chunksOfNotes = (notes: readonly Placed[], width: number, edge: number, before: Chunks): Chunks => {
  const found = new Map<number, Placed[]>();
  for (const note of notes) {
    for (let i = Math.floor((note.x - edge) / width); i <= Math.floor((note.endX + edge) / width); i += 1) {
      const own = found.get(i);
      if (own === undefined) found.set(i, [note]);
      else own.push(note);
    }
  }
  const same = (a: readonly Placed[], b: readonly Placed[]) => a.length === b.length && a.every((note, i) => note === b[i]);
  return new Map([...found].map(([i, own]) => { const old = before.get(i); return [i, old !== undefined && same(old, own) ? old : own]; }));
};

const USUAL = 0.3; // a few quick notes do not take the labels from all

export type View = { readonly notes: readonly Placed[]; readonly spacing: number };

export const viewOf = (things: Things, marks: Readonly<Record<string, NoteMark>>, grid: Grid, axis: Axis): View => {
  const sorted = Object.values(things.notes).sort((a, b) => a.tick - b.tick || a.string - b.string);
  const last = new Map<number, Placed>();
  const notes: Placed[] = [];
  for (const note of sorted) {
    const mark = marks[note.id];
    const { x, endX } = noteSpan(note, mark, (second) => toPx(axis, second), (tick) => grid.second(tick));
    const before = last.get(note.string);
    const placed: Placed = {
      id: note.id, note, mark, x, endX, startS: axis.startS + x / axis.pxPerS, endS: axis.startS + endX / axis.pxPerS,
      room: Infinity, gap: Infinity,
      before: before === undefined ? null : { x: before.x, fret: before.note.fret ?? null },
    };
    last.set(note.string, placed);
    notes.push(placed);
  }
  const columns = [...new Set(notes.map((note) => note.x))];
  const at = new Map(columns.map((x, i) => [x, i]));
  const spaced = notes.map((note) => {
    const i = at.get(note.x) ?? 0;
    const room = (columns[i + 1] ?? Infinity) - note.x;
    return asBefore({ ...note, room, gap: Math.min(room, note.x - (columns[i - 1] ?? -Infinity)) });
  });
  const gaps = notes.slice(1).map((note, i) => note.x - (notes[i]?.x ?? 0)).filter((gap) => gap > 0.5).sort((a, b) => a - b);
  return { notes: spaced, spacing: gaps[Math.floor(gaps.length * USUAL)] ?? 100 };
};
