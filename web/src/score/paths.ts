/** Where paths and their words lie in the lane under the degrees: rows are filled from the top, words where they fit. */
import type { Path } from "./analysis";

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

/** Paths in order of time, laid into rows; one that has no room in any row is drawn in the last without its words. */
export const layPaths = (paths: readonly Path[], x: (tick: number) => number, rows: number): readonly LaidPath[] => {
  const taken = Array.from({ length: rows }, () => -Infinity);
  return paths
    .filter(({ kind }) => kind !== "motif")
    .map((path): LaidPath => {
      const [left, right] = [x(path.tick), x(path.end)];
      const wide = Math.max(right, left + path.says.length * LETTER);
      const free = taken.findIndex((until) => until <= left);
      if (free >= 0) {
        taken[free] = wide + GAP;
        return { path, x: left, endX: right, row: free, said: true };
      }
      return { path, x: left, endX: right, row: rows - 1, said: false };
    });
};
