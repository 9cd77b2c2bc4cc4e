import { describe, expect, it } from "vitest";
import { layLanes } from "@/score/layout";
import { stringY } from "@/score/neck";
import { snapped, stringAt } from "./pointing";

describe("pointing at the strip", () => {
  const beats = [-400, 0, 400, 1000]; // the last beat is longer
  it.each([
    [0, 0],
    [49, 0],
    [51, 100],
    [390, 400],
    [-60, -100],
    [-900, -900], // before the first beat its steps go on
    [1150, 1150],
    [1240, 1300],
    [1500, 1450],
  ])("goes from tick %i to %i", (tick, wanted) => {
    expect(snapped(tick, beats, 1600)).toBe(wanted);
  });
  it("stays where there is no beat", () => {
    expect(snapped(70, [], 0)).toBe(0);
  });
  it.each([6, 7, 8])("finds each of %i strings, and the outer ones beyond them", (strings) => {
    for (const flipped of [false, true]) {
      const lanes = layLanes({ width: 1280, height: 516, strings, flip: flipped, sounds: true });
      for (let string = 1; string <= strings; string += 1)
        expect(stringAt(stringY(lanes.neck, string) + 3, lanes, strings)).toBe(string);
      expect(stringAt(-1000, lanes, strings)).toBe(flipped ? strings : 1);
    }
  });
});
