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
  readonly height: number;
};

/** Lanes for a strip of some height; the sound gives way first when it gets tight. */
export const layLanes = (height: number, strings: number, flip: boolean): Lanes => {
  const phrases = 41;
  const chords = 69;
  const sound = 121;
  const degreesHeight = 86;
  const room = height - sound - degreesHeight;
  const neckHeight = Math.min(192, Math.max(150, room - 40));
  const soundHeight = Math.max(24, Math.min(80, room - neckHeight - 44));
  const top = sound + soundHeight + 44;
  const neck: NeckGrid = { top, spacing: (neckHeight - 36) / Math.max(1, strings - 1), strings, flip };
  return { ruler: 0, phrases, chords, sound, soundHeight, neck, degrees: top + neckHeight - 36 + 38, height };
};

/** The largest of the sizes at which a text of some length fits into a width, or null. */
export const fitting = (length: number, width: number, sizes: readonly number[]): number | null =>
  sizes.find((size) => length * size * 0.58 <= width) ?? null;

/** What still has room, by the pixels between notes. */
export type Density = "all" | "plain degrees" | "numbers" | "strokes";
export const densityAt = (spacing: number): Density =>
  spacing >= 24 ? "all" : spacing >= 14 ? "plain degrees" : spacing >= 6 ? "numbers" : "strokes";
