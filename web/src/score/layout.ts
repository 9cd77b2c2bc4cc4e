/** Where the lanes of the strip stand, from top to bottom. They keep their order and never jump. */
import type { NeckGrid } from "./neck";

export const CHUNK = 640;

export type Lanes = {
  /** Pixels at the left for the names of lanes and strings; on a narrow screen for the letters of the strings alone. */
  readonly margin: number;
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
  /** In the analysis: where notes lead, and how they sit on the beat. */
  readonly paths: number | null;
  readonly feel: number | null;
};

/** What the lanes are laid into. */
export type Sheet = {
  readonly width: number;
  readonly height: number;
  readonly strings: number;
  readonly flip: boolean;
  /** Whether there is a recording to show. */
  readonly sounds: boolean;
};

export const NARROW = 640; // a sheet of this width is a phone's
const MARGIN = { usual: 92, narrow: 30 } as const;
const SOUND = { least: 24, wanted: 72, most: 120 } as const; // an onset is seen in a ridge of the wanted height
const NECK = { least: 106, wanted: 132, most: 156 } as const;
const ABOVE_NECK = 44; // a bend on string 1
const UNDER_NECK = 32; // loudness
const UNDER_LANES = 30; // on a narrow screen the buttons of the zoom
export const PATH = { rows: 2, row: 28 } as const;
const READ = { least: 366, neck: 84, aboveNeck: 30, underNeck: 14, underDegrees: 10 } as const;
const NO_PATHS = { paths: null, feel: null } as const;
export const DEGREE = { tablet: 28, line: 16, words: 68 } as const; // a tablet, a line under it, and what belongs to both

/** Lanes for a sheet: neck and sound as they are wanted, then what is over or missing, the sound giving way first. */
export const layLanes = ({ width, height: tall, strings, flip, sounds }: Sheet): Lanes => {
  const phrases = 41;
  const chords = 69;
  const sound = 121;
  const margin = width < NARROW ? MARGIN.narrow : MARGIN.usual;
  const height = margin === MARGIN.narrow ? tall - UNDER_LANES : tall;
  const wanted = sounds ? SOUND.wanted : 0;
  const room = height - sound - ABOVE_NECK - UNDER_NECK - DEGREE.words;
  const [least, most] = room < NECK.wanted + wanted ? [NECK.least, NECK.wanted] : [NECK.wanted, NECK.most];
  const neckHeight = Math.min(most, Math.max(least, room - wanted));
  const soundHeight = sounds ? Math.min(SOUND.most, Math.max(SOUND.least, room - neckHeight)) : 0;
  const top = sound + soundHeight + ABOVE_NECK;
  const neck: NeckGrid = { top, spacing: neckHeight / Math.max(1, strings - 1), strings, flip };
  const degrees = top + neckHeight + UNDER_NECK;
  const stacked = Math.max(1, Math.floor((height - degrees - DEGREE.tablet - 4) / DEGREE.line));
  return {
    margin,
    ruler: 0,
    phrases,
    chords,
    sound,
    soundHeight,
    neck,
    degrees,
    stacked,
    height,
    low: false,
    ...NO_PATHS,
  };
};

/** Lanes for the analysis: a narrow neck without sound, degrees without names, then paths and feel. */
export const layRead = (sheet: Sheet): Lanes => {
  const lanes = layLanes({ ...sheet, sounds: false });
  const top = lanes.sound + READ.aboveNeck;
  const over = Math.max(0, sheet.height - READ.least);
  const neckHeight = Math.min(NECK.wanted, READ.neck + over);
  const neck: NeckGrid = { ...lanes.neck, top, spacing: neckHeight / Math.max(1, sheet.strings - 1) };
  const degrees = top + neckHeight + READ.underNeck;
  const paths = degrees + DEGREE.tablet + READ.underDegrees;
  const feel = paths + PATH.rows * PATH.row + 8;
  return { ...lanes, soundHeight: 0, neck, degrees, stacked: 1, paths, feel };
};

/** Lanes for Setup: the sound takes what the ruler, the sections and the chords leave. */
export const layLow = (sheet: Sheet): Lanes => {
  const lanes = layLanes(sheet);
  const { height } = sheet;
  return { ...lanes, soundHeight: Math.max(SOUND.least, height - lanes.sound - 6), degrees: height, low: true };
};

/** The largest of the sizes at which a text of some length fits into a width, or null. */
export const fitting = (length: number, width: number, sizes: readonly number[]): number | null =>
  sizes.find((size) => length * size * 0.58 <= width) ?? null;

/** Pixels a second at which a bar and a half of some seconds is in view, on a narrow screen; else null. */
export const narrowZoom = (width: number, barS: number): number | null =>
  width < NARROW && barS > 0 ? (width - MARGIN.narrow) / (1.5 * barS) : null;

/** What still has room, by the pixels between notes. */
export type Density = "all" | "plain degrees" | "numbers" | "strokes";
export const densityAt = (spacing: number): Density =>
  spacing >= 24 ? "all" : spacing >= 14 ? "plain degrees" : spacing >= 6 ? "numbers" : "strokes";
