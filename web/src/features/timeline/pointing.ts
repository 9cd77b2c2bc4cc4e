/** Where a pointer is on the strip, in ticks and strings. */
import type { Lanes } from "@/score/layout";
import { stringY } from "@/score/neck";

/** To the nearest quarter of a beat: the steps that the ruler's beats are cut in. `end` closes the last beat. */
export const snapped = (tick: number, beats: readonly number[], end: number): number => {
  const after = beats.findIndex((beat) => beat > tick);
  const at = Math.max(0, after === -1 ? beats.length - 1 : after - 1);
  const from = beats[at] ?? 0;
  const step = ((beats[at + 1] ?? end) - from) / 4;
  return step > 0 ? Math.round(from + Math.round((tick - from) / step) * step) : from;
};

/** The string nearest to a height; string 1 where none is. */
export const stringAt = (y: number, lanes: Lanes, strings: number): number => {
  const off = (string: number) => Math.abs(stringY(lanes.neck, string) - y);
  return Array.from({ length: strings }, (_, i) => i + 1).sort((a, b) => off(a) - off(b))[0] ?? 1;
};
