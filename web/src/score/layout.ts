/** Where the lanes of the strip stand, from top to bottom. They keep their order and never jump. */
import type { NeckGrid } from "./neck";

export const MARGIN = 92; // pixels of lane names at the left
export const CHUNK = 640;

export type Lanes = {
  readonly ruler: number;
  readonly phrases: number;
  readonly chords: number;
  readonly sound: number;
  readonly soundHeight: number;
  readonly neck: NeckGrid;
  readonly degrees: number;
  /** How many degrees of a stack have room under its first, one below the other. */
  readonly stacked: number;
  readonly height: number;
  /** Bars, chords and sound alone: no neck, no degrees. */
  readonly low: boolean;
};

const SOUND = 24; // the ridge at its lowest
const ABOVE_NECK = 44; // a bend on string 1
export const DEGREE = { tablet: 28, line: 16, words: 84 } as const; // a tablet, a line under it, and what belongs to both

/** Lanes for a strip of some height; the sound gives way first when it gets tight, then the neck. */
export const layLanes = (height: number, strings: number, flip: boolean): Lanes => {
  const phrases = 41;
  const chords = 69;
  const sound = 121;
  const room = height - sound - ABOVE_NECK - 38 - DEGREE.words;
  const neckHeight = Math.min(156, Math.max(106, room - SOUND));
  const soundHeight = Math.max(SOUND, Math.min(80, room - neckHeight));
  const top = sound + soundHeight + ABOVE_NECK;
  const neck: NeckGrid = { top, spacing: neckHeight / Math.max(1, strings - 1), strings, flip };
  const degrees = top + neckHeight + 38;
  const stacked = Math.max(1, Math.floor((height - degrees - DEGREE.tablet - 4) / DEGREE.line));
  return { ruler: 0, phrases, chords, sound, soundHeight, neck, degrees, stacked, height, low: false };
};

/** Lanes for Setup: the sound takes what the ruler, the sections and the chords leave. */
export const layLow = (height: number, strings: number, flip: boolean): Lanes => {
  const lanes = layLanes(height, strings, flip);
  return { ...lanes, soundHeight: Math.max(SOUND, height - lanes.sound - 6), degrees: height, low: true };
};

/** The largest of the sizes at which a text of some length fits into a width, or null. */
export const fitting = (length: number, width: number, sizes: readonly number[]): number | null =>
  sizes.find((size) => length * size * 0.58 <= width) ?? null;

/** What still has room, by the pixels between notes. */
export type Density = "all" | "plain degrees" | "numbers" | "strokes";
export const densityAt = (spacing: number): Density =>
  spacing >= 24 ? "all" : spacing >= 14 ? "plain degrees" : spacing >= 6 ? "numbers" : "strokes";
