/** Where paths and their words lie in the lane under the degrees: rows are filled from the top, words where they fit. */
import type { Path } from "./analysis";
import { type Axis, type Grid, toPx } from "./axis";

export type LaidPath = {
  readonly path: Path;
  readonly x: number;
  readonly endX: number;
  readonly row: number;
  /** Whether its words have room beside it. */
  readonly said: boolean;
};

const LETTER = 6.6; // pixels of a letter of the words, about
const GAP = 14;

/** Paths in order of time, laid into rows, motifs after all others; one that has no room in any row is drawn in the last without its words. */
export const layPaths = (paths: readonly Path[], x: (tick: number) => number, rows: number): readonly LaidPath[] => {
  const taken: [number, number][][] = Array.from({ length: rows }, () => []);
  const isMotif = ({ kind }: Path) => kind === "motif";
  return [...paths.filter((path) => !isMotif(path)), ...paths.filter(isMotif)].map((path): LaidPath => {
    const [left, right] = [x(path.tick), x(path.end)];
    const wide = Math.max(right, left + path.says.length * LETTER) + GAP;
    const free = taken.findIndex((row) => row.every(([from, to]) => to <= left || wide <= from));
    if (free >= 0) {
      taken[free]?.push([left, wide]);
      return { path, x: left, endX: right, row: free, said: true };
    }
    return { path, x: left, endX: right, row: rows - 1, said: false };
  });
};

let last: { paths: readonly Path[]; axis: Axis; grid: Grid; laid: readonly LaidPath[] } | undefined;

/** The same for every part of the strip, laid once for a list of paths, an axis and a grid. */
export const pathsOn = (paths: readonly Path[], axis: Axis, grid: Grid, rows: number): readonly LaidPath[] => {
  if (last?.paths !== paths || last.axis !== axis || last.grid !== grid)
    last = { paths, axis, grid, laid: layPaths(paths, (tick) => toPx(axis, grid.second(tick)), rows) };
  return last.laid;
};
