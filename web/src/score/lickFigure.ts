/** Where the parts of a lick's drawing stand: time from left to right, strings as lines, degrees under them. Pure geometry. */
import type { Schemas } from "@/api/client";
import { fitting } from "./layout";

export type Drawing = Schemas["LickDrawing"];
export type LickNote = Schemas["LickNote"];
export type FigureSize = { readonly width: number; readonly strings: number };
export type LaidNote = {
  readonly one: LickNote;
  readonly x: number;
  readonly endX: number;
  readonly y: number;
  /** To the onset before and after it. */
  readonly lead: number;
  readonly room: number;
  /** How many notes of its onset lie above it. */
  readonly row: number;
  /** Which onset it is, from 0. */
  readonly onset: number;
  readonly joinedFrom: number | null;
};
export type LaidFigure = {
  readonly notes: readonly LaidNote[];
  readonly bars: readonly { readonly x: number; readonly label: string }[];
  readonly chords: readonly {
    readonly x: number;
    readonly room: number;
    readonly shown: string;
    readonly size: number;
  }[];
  readonly top: number;
  readonly spacing: number;
  readonly bottom: number;
  readonly degrees: number;
  readonly height: number;
};

export const FIGURE = { left: 26, right: 22, chords: 18, top: 40, spacing: 12.5, tablet: 24, underNeck: 22 } as const;
const SIZES = [17, 15, 13] as const;
const LEAST = 20; // pixels an onset, in which a degree can be read

const FIGURE_OF_FRET = 9; // pixels
const SLASH = 16; // pixels that the stroke of a slide needs between two numbers
const MOST_WIDE = 2.5; // times the width, however close a slide's notes are

/** So wide, or as wide as its degrees need to be read; `apart`: and as its slides need to stand between their numbers. */
export const wideEnough = (drawing: Drawing, width: number, apart = false): number => {
  const edges = FIGURE.left + FIGURE.right;
  const least = Math.max(width, edges + LEAST * new Set(drawing.notes.map(({ note }) => note.tick)).size);
  if (!apart) return least;
  const slid = drawing.notes.flatMap((one) => {
    const source = drawing.notes.findLast(({ note }) => note.string === one.note.string && note.tick < one.note.tick);
    if (one.note.attack.kind !== "slide" || source === undefined) return [];
    const need = SLASH + (FIGURE_OF_FRET * (one.fret.length + source.fret.length)) / 2;
    return [edges + (need * (drawing.end - drawing.start)) / (one.note.tick - source.note.tick)];
  });
  return Math.min(Math.max(least, ...slid), MOST_WIDE * least);
};

/** Where a tick of a drawing stands. */
export const xOf = (drawing: Pick<Drawing, "start" | "end">, width: number, tick: number): number =>
  FIGURE.left +
  ((tick - drawing.start) / Math.max(1, drawing.end - drawing.start)) * (width - FIGURE.left - FIGURE.right);

/** Everything of a lick in so many pixels. */
export const layFigure = (drawing: Drawing, { width, strings }: FigureSize): LaidFigure => {
  const x = (tick: number): number => xOf(drawing, width, tick);
  const onsets = [...new Set(drawing.notes.map(({ note }) => note.tick))].sort((a, b) => a - b);
  const y = (string: number): number => FIGURE.top + FIGURE.spacing * (string - 1);
  const notes = drawing.notes.map((one): LaidNote => {
    const at = onsets.indexOf(one.note.tick);
    const [before, after] = [onsets[at - 1], onsets[at + 1]];
    const row = drawing.notes.filter(({ note }) => note.tick === one.note.tick && note.string < one.note.string).length;
    const sources = drawing.notes.filter(({ note }) => note.string === one.note.string && note.tick < one.note.tick);
    const source = sources[sources.length - 1];
    return {
      one,
      x: x(one.note.tick),
      endX: x(one.note.tick + one.note.ticks),
      y: y(one.note.string),
      lead: before === undefined ? FIGURE.left + 12 : x(one.note.tick) - x(before),
      room: (after === undefined ? width - 4 : x(after)) - x(one.note.tick),
      row,
      onset: at,
      joinedFrom: source === undefined ? null : x(source.note.tick),
    };
  });
  const bottom = y(strings);
  const rows = Math.max(0, ...notes.map(({ row }) => row));
  const degrees = bottom + FIGURE.underNeck;
  return {
    notes,
    bars: drawing.bars.map((bar) => ({ x: x(bar.tick) - 9, label: bar.label })),
    chords: drawing.chords.map((chord, i) => {
      const next = drawing.chords[i + 1];
      const room = (next === undefined ? width : x(next.tick)) - x(chord.tick);
      return {
        x: x(chord.tick) - 6,
        room,
        shown: chord.shown,
        size: fitting(chord.shown.length, room - 4, SIZES) ?? 0,
      };
    }),
    top: FIGURE.top,
    spacing: FIGURE.spacing,
    bottom,
    degrees,
    height: degrees + FIGURE.tablet + 10 + rows * 17,
  };
};
