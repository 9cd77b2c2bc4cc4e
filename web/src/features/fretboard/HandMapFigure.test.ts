import { describe, expect, it } from "vitest";
import type { Schemas } from "@/api/client";
import { positionsOf, rowsOf } from "./HandMapFigure";

const stay = (
  position: number,
  lowest: number | null,
  highest: number | null,
  notes: number,
  grip = "",
): Schemas["Stay"] => ({ start: 0, end: 1, position, lowest, highest, notes, grip });
const map = (...stays: Schemas["Stay"][]): Schemas["HandMap"] => ({ stays, moves: 0, sentence: "" });

describe("the map of the hand", () => {
  it("shows each position once, as wide as it is ever used, with all its grips", () => {
    const used = positionsOf(
      map(
        stay(7, 7, 9, 3, "A grip of Em7"),
        stay(5, 5, 8, 2),
        stay(7, 8, 10, 4, "C grip of G"),
        stay(7, 7, 8, 1, "A grip of Em7"),
        stay(1, null, null, 2),
      ),
    );
    expect(used).toEqual([
      { position: 5, lowest: 5, highest: 8, notes: 2, grips: [] },
      { position: 7, lowest: 7, highest: 10, notes: 8, grips: ["A", "C"] },
    ]);
  });
  it("lays brackets that would touch in rows of their own", () => {
    const at = (lowest: number, highest: number) => ({ position: lowest, lowest, highest, notes: 1, grips: [] });
    expect(rowsOf([at(5, 8), at(7, 10), at(8, 8), at(9, 12), at(12, 15)])).toEqual([0, 1, 2, 0, 1]);
  });
});
