/** The strip's axis: seconds of the recording to pixels, ticks to seconds. Plain geometry. */

export type Axis = { readonly startS: number; readonly pxPerS: number };

export const toPx = (axis: Axis, s: number): number => (s - axis.startS) * axis.pxPerS;
export const toS = (axis: Axis, px: number): number => axis.startS + px / axis.pxPerS;

/** Zoom steps in pixels a second; keys and the wheel walk this list. */
export const ZOOMS = [6, 10, 16, 24, 34, 48, 64, 82, 100, 127, 160, 200, 260, 340] as const;

export const zoomStep = (pxPerS: number, by: number): number => {
  const at = ZOOMS.findIndex((zoom) => zoom >= pxPerS - 0.01);
  const next = Math.min(Math.max((at < 0 ? ZOOMS.length - 1 : at) + by, 0), ZOOMS.length - 1);
  return ZOOMS[next] ?? pxPerS;
};

/** The line through anchors: linear between, the nearest segment's slope outside. Two points or more, rising. */
export const onLine = (points: readonly (readonly [number, number])[], x: number): number => {
  let i = points.findIndex(([px]) => px > x) - 1;
  if (i === -2) i = points.length - 2;
  i = Math.min(Math.max(i, 0), points.length - 2);
  const [x0, y0] = points[i] ?? [0, 0];
  const [x1, y1] = points[i + 1] ?? [x0 + 1, y0];
  return y0 + ((x - x0) * (y1 - y0)) / (x1 - x0);
};

export class Grid {
  private readonly forward: readonly (readonly [number, number])[];
  private readonly backward: readonly (readonly [number, number])[];

  constructor(anchors: readonly { tick: number; second: number }[]) {
    this.forward = anchors.map((anchor) => [anchor.tick, anchor.second] as const);
    this.backward = anchors.map((anchor) => [anchor.second, anchor.tick] as const);
  }

  second(tick: number): number {
    return onLine(this.forward, tick);
  }

  tick(second: number): number {
    return onLine(this.backward, second);
  }
}

/** Indices of the chunks of `width` pixels that a window touches, one more on both sides. */
export const chunksOf = (from: number, to: number, width: number, last: number): number[] => {
  const first = Math.max(0, Math.floor(from / width) - 1);
  const end = Math.min(last, Math.floor(to / width) + 1);
  return Array.from({ length: Math.max(0, end - first + 1) }, (_, i) => first + i);
};
