/** Notes as they lie on the axis: what every lane of the strip draws from. */
import { type Axis, type Grid, toPx } from "./axis";
import { inOrder, type Elements } from "./elements";
import { noteSpan, type Span } from "./neck";
import type { Note, NoteView } from "./types";

export type Placed = {
  readonly id: string;
  readonly note: Note;
  readonly view: NoteView | undefined;
  readonly axis: Axis;
  readonly x: number;
  readonly endX: number;
  readonly startS: number;
  readonly endS: number;
  /** Pixels to the notes before and after in time, and to the nearer of both: what a label may take. */
  readonly lead: number;
  readonly room: number;
  readonly gap: number;
  /** The note before on the same string, which hammer-ons, pull-offs and slides come from. */
  readonly before: { readonly x: number; readonly fret: number | null } | null;
};

/** What was laid for a note the last time: the same object again when nothing of it changed, so that it is not drawn again. */
const laid = new WeakMap<Note, Placed>();

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
  const same = (a: readonly Placed[], b: readonly Placed[]) =>
    a.length === b.length && a.every((note, i) => note === b[i]);
  return new Map(
    [...found].map(([i, own]) => {
      const old = before.get(i);
      return [i, old !== undefined && same(old, own) ? old : own];
    }),
  );
};

const USUAL = 0.3; // a few quick notes do not take the labels from all

export type View = { readonly notes: readonly Placed[]; readonly spacing: number };

export const viewOf = (elements: Elements, views: Readonly<Record<string, NoteView>>, grid: Grid, axis: Axis): View => {
  const sorted = inOrder(elements.notes);
  const toX = (second: number) => toPx(axis, second);
  const toSecond = (tick: number) => grid.second(tick);
  const spans = sorted.map((note): Span => {
    const [old, view] = [laid.get(note), views[note.id]];
    return old !== undefined && view !== undefined && old.view === view && old.axis === axis
      ? old
      : noteSpan(note, view, toX, toSecond);
  });
  // Notes that start together stand in one column.
  const columns: number[] = [];
  const columnOf = spans.map(({ x }) => (columns[columns.length - 1] === x ? columns.length : columns.push(x)) - 1);
  const last = new Map<number, number>(); // the note before on each string
  const notes = sorted.map((note, i): Placed => {
    const { x, endX } = spans[i] ?? { x: 0, endX: 0 };
    const column = columnOf[i] ?? 0;
    const view = views[note.id];
    const room = (columns[column + 1] ?? Infinity) - x;
    const lead = x - (columns[column - 1] ?? -Infinity);
    const gap = Math.min(room, lead);
    const at = last.get(note.string);
    const beforeX = at === undefined ? undefined : spans[at]?.x;
    const beforeFret = at === undefined ? undefined : (sorted[at]?.fret ?? null);
    last.set(note.string, i);
    const old = laid.get(note);
    const same =
      old !== undefined &&
      old.view === view &&
      old.x === x &&
      old.endX === endX &&
      old.axis === axis &&
      old.room === room &&
      old.lead === lead &&
      old.before?.x === beforeX &&
      old.before?.fret === beforeFret;
    if (same) return old;
    const before = beforeX === undefined || beforeFret === undefined ? null : { x: beforeX, fret: beforeFret };
    const placed = {
      id: note.id,
      note,
      view,
      axis,
      x,
      endX,
      startS: axis.startS + x / axis.pxPerS,
      endS: axis.startS + endX / axis.pxPerS,
      lead,
      room,
      gap,
      before,
    };
    laid.set(note, placed);
    return placed;
  });
  const gaps = columns
    .slice(1)
    .map((x, i) => x - (columns[i] ?? 0))
    .filter((gap) => gap > 0.5)
    .sort((a, b) => a - b);
  return { notes, spacing: gaps[Math.floor(gaps.length * USUAL)] ?? 100 };
};
