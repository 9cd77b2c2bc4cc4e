import { describe, expect, it } from "vitest";
import { type Act, type Elements } from "./elements";
import { levelAt, stepLevel, swell } from "./loudness";
import type { Dynamic, Swell } from "./types";

const elements = (dynamics: Dynamic[], swells: Swell[] = []): Elements => ({
  notes: {},
  rests: {},
  stacks: {},
  phrases: {},
  questions: {},
  dynamics: Object.fromEntries(dynamics.map((one) => [one.id, one])),
  swells: Object.fromEntries(swells.map((one) => [one.id, one])),
  choices: {},
  remarks: {},
  plan: {},
});
const after = (act: Act | null) => act?.changes[0]?.after;

describe("levels", () => {
  const soft = elements([
    { id: "b", tick: 100, level: "p" },
    { id: "a", tick: 0, level: "ff" },
  ]);
  it("hold until the next, and are mf before the first", () => {
    expect([-1, 0, 99, 100, 500].map((tick) => levelAt(soft, tick))).toEqual(["mf", "ff", "ff", "p", "p"]);
  });
  it("go up and down by one, and end at the loudest and the softest", () => {
    expect(after(stepLevel(soft, 200, "louder", null))).toMatchObject({ tick: 200, level: "mp" });
    expect(stepLevel(soft, 50, "louder", null)).toBeNull();
    expect(stepLevel(elements([{ id: "a", tick: 0, level: "pp" }]), 0, "softer", null)).toBeNull();
  });
  it("leave no sign where the level is that of before", () => {
    const back = stepLevel(
      elements([
        { id: "a", tick: 0, level: "p" },
        { id: "b", tick: 100, level: "mp" },
      ]),
      100,
      "softer",
      "n",
    );
    expect([after(back), back?.picked]).toEqual([null, "n"]);
  });
});

describe("a swell", () => {
  it("lies over the span, turns round, and goes when it is asked for again", () => {
    const span = { from: 0, to: 100 };
    const there = elements([], [{ id: "w", start: 0, end: 100, to: "louder" }]);
    expect(after(swell(elements([]), span, "softer", null))).toMatchObject({ start: 0, end: 100, to: "softer" });
    expect(after(swell(there, span, "softer", null))).toMatchObject({ id: "w", to: "softer" });
    expect(after(swell(there, span, "louder", null))).toBeNull();
  });
});
