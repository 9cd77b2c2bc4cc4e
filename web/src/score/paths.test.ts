import { describe, expect, it } from "vitest";
import type { Path } from "./analysis";
import { layPaths } from "./paths";

const path = (tick: number, end: number, says = "half step up to the 5", kind: Path["kind"] = "approach"): Path => ({
  kind,
  notes: [],
  goal: null,
  tick,
  end,
  says,
  before: null,
});

describe("paths under the degrees", () => {
  it("lie in one row as long as their words do not touch", () => {
    const laid = layPaths([path(0, 20), path(400, 420)], (tick) => tick, 2);
    expect(laid.map(({ row, said }) => [row, said])).toEqual([
      [0, true],
      [0, true],
    ]);
  });
  it("take the next row where they would touch, and keep silent where none is left", () => {
    const laid = layPaths([path(0, 20), path(30, 50), path(60, 80)], (tick) => tick, 2);
    expect(laid.map(({ row, said }) => [row, said])).toEqual([
      [0, true],
      [1, true],
      [1, false],
    ]);
  });
  it("give way to no motif", () => {
    const laid = layPaths([path(0, 9, "as in bar 1", "motif"), path(5, 20), path(8, 30)], (tick) => tick, 2);
    expect(laid.map(({ path: { kind }, said }) => [kind, said])).toEqual([
      ["approach", true],
      ["approach", true],
      ["motif", false],
    ]);
  });
});
