/** How a note inks its string: strokes, lifts, waves and bows, as SVG paths. Pure geometry. */
import { type Axis, toPx } from "./axis";
import type { Note, NoteView } from "./types";

export const LIFT = 5.5; // pixels a quarter tone
export const MOST_LIFT = 33; // a bend above a step and a half is drawn to that and says its size
const HALF_NUMBER = 11;

export type NeckGrid = {
  readonly top: number;
  readonly spacing: number;
  readonly strings: number;
  readonly flip: boolean;
};

/** The y of a string's line; a note on a string that is not there any more lies on the last. */
export const stringY = (neck: NeckGrid, string: number): number => {
  const there = Math.min(string, neck.strings);
  return neck.top + neck.spacing * (neck.flip ? neck.strings - there : there - 1);
};

/** Thicker towards the low strings. */
export const stringWidth = (string: number, strings: number): number =>
  1 + (1.6 * (string - 1)) / Math.max(1, strings - 1);

export const lift = (quarters: number): number => Math.max(-MOST_LIFT, Math.min(MOST_LIFT, quarters * LIFT));

/** Offset in quarter tones, `at` ticks into a note: linear between the points of its course, flat outside. */
export const courseAt = (course: readonly (readonly [number, number])[], at: number): number => {
  const first = course[0];
  if (first === undefined) return 0;
  for (let i = 0; i + 1 < course.length; i += 1) {
    const [x0, y0] = course[i] ?? first;
    const [x1, y1] = course[i + 1] ?? first;
    if (at >= x0 && at < x1) return y0 + ((y1 - y0) * (at - x0)) / (x1 - x0);
  }
  return (course[course.length - 1] ?? first)[1];
};

export type Span = { readonly x: number; readonly endX: number };

/** Where a note stands: from its expected second to its end, else from the grid while that is not answered yet. */
export const noteSpan = (
  note: Note,
  view: NoteView | undefined,
  toX: (second: number) => number,
  second: (tick: number) => number,
): Span => ({
  x: toX(view?.expected_s ?? second(note.tick)),
  endX: toX(view?.end_s ?? second(note.tick + note.ticks)),
});

/** A heard pitch over its string, to the scale of bends; `cents` from `second` on, so many seconds apart. */
export const heardPath = (
  { second, step_s, cents }: { readonly second: number; readonly step_s: number; readonly cents: readonly number[] },
  y: number,
  axis: Axis,
): string =>
  cents
    .map((one, i) => `${i === 0 ? "M" : "L"}${f(toPx(axis, second + i * step_s))} ${f(y - lift(one / 50))}`)
    .join("");

/** The stroke of a note, from the number's edge to its end, lifted by the course and waved by the vibrato. */
export const strokePath = (note: Note, span: Span, y: number, pxPerS: number, numbered: boolean): string => {
  const start = span.x + (numbered ? HALF_NUMBER + 1 : 0);
  const end = Math.max(start, span.endX - 3);
  if (note.dead || end - start < 2) return "";
  const total = Math.max(1, span.endX - span.x);
  const course = note.course as readonly (readonly [number, number])[];
  const vibrato = note.vibrato;
  const shakeFrom = vibrato ? span.x + (vibrato.start / note.ticks) * total : Infinity;
  // The wave keeps a length that the eye can follow; width is to scale, at least visible.
  const period = vibrato ? Math.max(7, Math.min(16, pxPerS / vibrato.rate_hz / 2)) : 1;
  const height = vibrato ? Math.max(2, Math.min(7, (vibrato.width_cents / 50) * LIFT * 0.7)) : 0;
  const bent = course.some(([, quarters]) => quarters !== 0);
  if (!bent && vibrato == null) return `M${f(start)} ${f(y)}H${f(end)}`;
  const step = 1.5;
  const points: string[] = [];
  for (let x = start; x <= end + 0.01; x += step) {
    const at = ((x - span.x) / total) * note.ticks;
    const raised = smoothLift(course, at, (step * 4 * note.ticks) / total);
    const wave = x >= shakeFrom ? Math.sin(((x - shakeFrom) / period) * 2 * Math.PI) * height : 0;
    points.push(`${f(x)} ${f(y - raised - wave)}`);
  }
  return `M${points.join("L")}`;
};

/** The course's lift with its corners rounded over a few pixels. */
const smoothLift = (course: readonly (readonly [number, number])[], at: number, over: number): number => {
  const near = [-1, -0.5, 0, 0.5, 1].map((part) => lift(courseAt(course, at + part * over)));
  return near.reduce((sum, value) => sum + value, 0) / near.length;
};

/** Where the size of a bend is written: above the place where it is reached. */
export const bendLabel = (note: Note, span: Span, y: number, bend: { at: number; quarters: number }) => ({
  x: Math.max(span.x + HALF_NUMBER + 8, span.x + ((span.endX - span.x) * bend.at) / note.ticks + 4),
  y: y - lift(bend.quarters) + (bend.quarters > 0 ? -9 : 18),
});

/** A stroke that leans into a number: upwards from a lower fret, downwards from a higher one. */
export const leanPath = (x: number, y: number, rising: boolean): string => {
  const dy = rising ? 8 : -8;
  return `M${f(x - HALF_NUMBER - 11)} ${f(y + dy)}L${f(x - HALF_NUMBER - 2)} ${f(y - dy * 0.6)}`;
};

/** A stroke that leans away at a note's end. */
export const fallPath = (x: number, y: number, rising: boolean): string => {
  const dy = rising ? -9 : 9;
  return `M${f(x - 14)} ${f(y)}L${f(x - 1)} ${f(y + dy)}`;
};

/** A wave of small teeth over a note: a trill turns, tremolo strikes. */
export const teethPath = (fromX: number, toX: number, y: number, width: number): string => {
  let path = `M${f(fromX)} ${f(y)}`;
  for (let x = fromX; x + width <= toX; x += width) path += `l${f(width / 2)} -5l${f(width / 2)} 5`;
  return path;
};

/** A stroke through the strings of a stack, with a head where it goes: down towards the thin ones. */
export const rollPath = (x: number, fromY: number, toY: number): string => {
  const head = toY > fromY ? -6 : 6;
  return `M${f(x)} ${f(fromY)}V${f(toY)}M${f(x - 4)} ${f(toY + head)}L${f(x)} ${f(toY)}L${f(x + 4)} ${f(toY + head)}`;
};

/** The bow between two numbers of a hammer-on or pull-off. */
export const bowPath = (fromX: number, toX: number, y: number): string => {
  const height = Math.min(17, 8 + (toX - fromX) / 8);
  return `M${f(fromX)} ${f(y - 15)}Q${f((fromX + toX) / 2)} ${f(y - 15 - height)} ${f(toX)} ${f(y - 15)}`;
};

const f = (value: number): string => value.toFixed(1);
