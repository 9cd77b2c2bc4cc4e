/**
 * What of a degree has room under its number. Every note has a cell of the lane to itself, so that labels never touch: when
 * it gets tight a bend's start goes first, then the size, then the tablet, then the degree.
 */
import { densityAt, fitting } from "./layout";

/** Pixels that a label may take to either side of its number. */
export type Cell = { readonly left: number; readonly right: number };
export type LaidDegree = {
  /** From the number: where the degree begins, and its width. */
  readonly left: number;
  readonly width: number;
  readonly size: number;
  readonly tablet: boolean;
  /** The degree that a bend starts from, at the left of an arrow; empty where it has no room. */
  readonly start: string;
};
type Says = {
  readonly text: string;
  readonly start: string;
  readonly pointed: boolean;
  readonly sizes: readonly number[];
};

const HALF = 20; // the widest a degree is to the left of its number
const APART = 1.5; // pixels that each of two neighbours leaves free
const START = 11; // a bend's start begins so far to the left
const POINT = 8; // a tablet that leans over the bar line
const LETTER = 0.58; // of the size

/** Of a note with so many pixels to the one before it and to the one after it. */
export const cellOf = (lead: number, room: number): Cell => ({
  left: Math.min(lead / 2, HALF) - APART,
  right: Math.max(room / 2, room - HALF) - APART,
});

const tabletWidth = (text: string): number => Math.max(23, 8 + 9.5 * text.length);
const letters = (text: string, size: number): number => LETTER * size * text.length;
const EDGES = 5; // of a tablet that is as narrow as its text allows

/** How a degree is drawn in its cell, and null where it has no room at all. */
export const layDegree = ({ text, start, pointed, sizes }: Says, cell: Cell, gap: number): LaidDegree | null => {
  const density = densityAt(gap);
  if (text === "" || density === "numbers" || density === "strokes") return null;
  const width = tabletWidth(text);
  const size = sizes[0] ?? 18;
  const tip = pointed ? POINT : 0;
  const beside = 9 + 7 * start.length; // of the number, where the target stands when the start is said
  if (density === "all" && start !== "" && cell.left >= START && beside + width + tip <= cell.right)
    return { left: beside, width, size, tablet: true, start };
  const most = 2 * Math.min(cell.left, cell.right - tip);
  const written = sizes.find((one) => letters(text, one) + EDGES <= most);
  if (density === "all" && written !== undefined) {
    const narrowed = Math.min(width, most);
    return { left: -narrowed / 2, width: narrowed, size: written, tablet: true, start: "" };
  }
  const plain = fitting(text.length, 2 * Math.min(cell.left, cell.right), sizes);
  if (plain === null) return null;
  const own = letters(text, plain);
  return { left: -own / 2, width: own, size: plain, tablet: false, start: "" };
};

/** Whether words of some length, centred `at` pixels from the number, stay in the cell. */
export const inCell = (cell: Cell, at: number, length: number, size: number): boolean => {
  const half = (LETTER * size * length) / 2;
  return at - half >= -cell.left && at + half <= cell.right;
};
